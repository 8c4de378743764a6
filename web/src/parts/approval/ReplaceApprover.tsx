import { type Approval, type Document, routes } from '@polychron/contract';
import { may } from '@polychron/core';
import { useQueryClient } from '@tanstack/react-query';
import { Select } from 'antd';
import { PageError, call } from '../../ui/api.ts';
import { Consequences } from '../../ui/Consequences.tsx';
import { PersonField } from '../fields/PeopleField.tsx';
import { refreshDocument } from '../queries.ts';
import { useUnfinished } from '../../ui/unfinished.ts';
import { aboutDocument } from '../unfinished/about.ts';

/** Putting somebody in the place of an approver who has not decided. */
export function ReplaceApprover({
  document,
  approval,
  onLeave,
}: {
  document: Document;
  approval: Approval;
  onLeave: () => void;
}) {
  const client = useQueryClient();
  const open = approval.posts.filter(({ decision }) => decision === null || decision === 'later');
  const asked = new Set(approval.posts.map(({ person }) => person.account));
  const form = useUnfinished<{ comment: string; from: string; to?: string }>(
    aboutDocument(document, 'replaceApprover', 'Ask somebody else'),
    { comment: '', from: open[0]?.person.account ?? '' },
  );
  const { from, to } = form.value;
  const replaced = open.find(({ person }) => person.account === from)?.person.name ?? '';
  const replace = async (reason: string): Promise<void> => {
    if (to === undefined) throw new PageError('Choose who is asked instead.');
    if (reason.trim() === '') throw new PageError('Say in a word why: both are told.');
    await call(routes.replaceApprover, { params: { id: document.id }, body: { from, to, reason } });
    await refreshDocument(client, document.id);
  };
  return (
    <Consequences
      outcomes={[{ label: `Ask them about ${approval.version}`, act: replace, primary: true }]}
      commentHint="Why? Both are told."
      form={form}
      onLeave={onLeave}
    >
      <span className="replacing">
        In the place of{' '}
        {open.length === 1 ? (
          <strong>{replaced}</strong>
        ) : (
          <Select
            aria-label="In whose place"
            value={from}
            options={open.map(({ person }) => ({ value: person.account, label: person.name }))}
            onChange={(account) => form.change({ from: account })}
          />
        )}{' '}
        ask{' '}
        <PersonField
          libraryId={document.library.id}
          label="Who is asked instead"
          empty="an approver"
          offers={({ account, roles }) => may(new Set(roles), 'decide') && !asked.has(account)}
          {...(to === undefined ? {} : { value: to })}
          onChange={(account) => form.change({ to: account })}
        />
        <span>
          {replaced} is no longer asked about {approval.version}; the turn and what others decided stay.
        </span>
      </span>
    </Consequences>
  );
}
