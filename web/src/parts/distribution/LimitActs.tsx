import { type Document, type LimitOutcome, routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { call, PageError } from '../../ui/api.ts';
import { Consequences } from '../../ui/Consequences.tsx';
import { Names } from '../../ui/Names.tsx';
import { Refusal } from '../../ui/Refusal.tsx';
import { limitOutcomeQuery, limitQuery, refreshDocument } from '../queries.ts';
import { useUnfinished } from '../../ui/unfinished.ts';
import { aboutDocument } from '../unfinished/about.ts';
import { type Named, NamedFields, namesOf } from './NamedFields.tsx';
import './distribution.css';

/** To whom the document is kept; keeping it to people, or opening it again. */
export function LimitActs({ document }: { document: Document }) {
  const [asking, setAsking] = useState<'keep' | 'open' | null>(null);
  const { id, limited, acts } = document;
  const { data } = useQuery({ ...limitQuery(id), enabled: limited });
  const may = acts.limit.allowed;
  if (!limited && !may) return null;
  const present = data?.limit ?? { people: [], groups: [] };
  return (
    <>
      {limited && (
        <p className="kept-to">
          Kept to <Names names={namesOf(present)} none="nobody else" />, besides its owner, co-authors and
          controllers. For everybody else it does not exist.
        </p>
      )}
      {may && asking === null && (
        <p className="acts kept-to">
          <button type="button" className="quiet" onClick={() => setAsking('keep')}>
            {limited ? 'Change who it is kept to' : 'Keep it to named people'}
          </button>
          {limited && (
            <button type="button" className="quiet" onClick={() => setAsking('open')}>
              Open it to every member
            </button>
          )}
        </p>
      )}
      {asking === 'keep' && (!limited || data) && (
        <Keeping document={document} present={present} onLeave={() => setAsking(null)} />
      )}
      {asking === 'open' && <Opening document={document} onLeave={() => setAsking(null)} />}
    </>
  );
}

type Present = NonNullable<LimitOutcome['limit']>;

/** Says beforehand who would lose or gain sight, as the act itself computes it. */
function useLimiting(id: string, limit: Named | null, asked: boolean) {
  const client = useQueryClient();
  const outcome = useQuery({ ...limitOutcomeQuery(id, limit), enabled: asked });
  const go = async (reason: string): Promise<void> => {
    if (reason.trim() === '') throw new PageError('Say in a sentence why.');
    await call(routes.setLimit, { params: { id }, body: { limit, reason } });
    await client.invalidateQueries({ queryKey: ['limit', id] });
    await refreshDocument(client, id);
  };
  return { outcome, go };
}

function Keeping({
  document,
  present,
  onLeave,
}: {
  document: Document;
  present: Present;
  onLeave: () => void;
}) {
  const { id, library, limited } = document;
  const before: Named = { people: present.people.map(({ account }) => account), groups: present.groups };
  const form = useUnfinished(aboutDocument(document, 'keepTo', 'Keep to named people'), {
    comment: '',
    named: before,
  });
  const { named } = form.value;
  const changed = !limited || JSON.stringify(named) !== JSON.stringify(before);
  const { outcome, go } = useLimiting(id, named, changed);
  const losing = outcome.data?.losing.length ?? 0;
  return (
    <Consequences
      commentHint="Why? (kept in the audit trail)"
      form={form}
      outcomes={[
        {
          label: losing > 0 ? `Keep it to these: ${losing} lose sight of it` : 'Keep it to these',
          act: async (reason) => {
            if (!changed) throw new PageError('It is kept to these already.');
            await go(reason);
          },
          primary: true,
        },
      ]}
      onLeave={onLeave}
    >
      <span className="naming">
        <NamedFields
          label="Kept to"
          libraryId={library.id}
          value={named}
          known={present.people}
          onChange={(chosen) => form.change({ named: chosen })}
        />
        <span>
          and its owner, co-authors and controllers. <Shift outcome={outcome} />
        </span>
      </span>
    </Consequences>
  );
}

function Opening({ document, onLeave }: { document: Document; onLeave: () => void }) {
  const { outcome, go } = useLimiting(document.id, null, true);
  const form = useUnfinished(aboutDocument(document, 'open', 'Open to every member'), { comment: '' });
  return (
    <Consequences
      commentHint="Why? (kept in the audit trail)"
      form={form}
      outcomes={[{ label: 'Open it to every member', act: go, primary: true }]}
      onLeave={onLeave}
    >
      It is there for every member again. <Shift outcome={outcome} />
    </Consequences>
  );
}

/** Whose sight of the document changes, by name. */
function Shift({ outcome }: { outcome: { data: LimitOutcome | undefined; error: unknown } }) {
  const { data, error } = outcome;
  if (error) return <Refusal error={error} />;
  if (!data) return null;
  const names = (people: readonly { name: string }[]): string => {
    const shown = people.slice(0, 12).map(({ name }) => name);
    return people.length > shown.length
      ? `${shown.join(', ')} and ${people.length - shown.length} more`
      : shown.join(', ');
  };
  const { losing, gaining } = data;
  if (losing.length + gaining.length === 0) return <>Nobody&apos;s access changes.</>;
  return (
    <>
      {losing.length > 0 && (
        <>
          <strong>{losing.length}</strong> {losing.length === 1 ? 'loses' : 'lose'} sight of it:{' '}
          {names(losing)}.{' '}
        </>
      )}
      {gaining.length > 0 && (
        <>
          <strong>{gaining.length}</strong> {gaining.length === 1 ? 'gains' : 'gain'} sight of it:{' '}
          {names(gaining)}.
        </>
      )}
    </>
  );
}
