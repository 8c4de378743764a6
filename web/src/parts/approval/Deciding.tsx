import { numberWords } from '@polychron/core';
import { type Approval, type Document, routes, type Version } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { Button, Input, type InputRef } from 'antd';
import { useRef, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { PageError, call } from '../../ui/api.ts';
import { useMessages } from '../../ui/messages.tsx';
import { Refusal } from '../../ui/Refusal.tsx';
import { fullTime } from '../../ui/when.ts';
import { documentQuery, refreshDocument } from '../queries.ts';
import { useFocusBack } from '../../ui/useFocusBack.ts';
import { useSeveralOutcomes } from '../../ui/useSeveralOutcomes.tsx';
import { useUnfinished } from '../../ui/unfinished.ts';
import { aboutDocument } from '../unfinished/about.ts';
import './approval.css';

type Decision = 'approve' | 'reject' | 'later';

interface Props {
  document: Document;
  approval: Approval;
  /** Whether one decides in the place of those asked, with a reason. */
  inPlace?: boolean;
  /** Whether single keys lead to the ways of deciding, while nothing is typed. */
  keys?: boolean;
  onDone?: (() => void) | undefined;
  onLeave?: () => void;
}

/** One's own word about the version in approval: what approving would come to, and the ways to decide. */
export function Deciding({ document, approval, inPlace = false, keys = false, onDone, onLeave }: Props) {
  const client = useQueryClient();
  const message = useMessages();
  const field = useRef<InputRef>(null);
  const form = useUnfinished(
    aboutDocument(
      document,
      inPlace ? 'decideInPlace' : 'decide',
      inPlace ? 'Decide in their place' : 'Decision',
    ),
    { comment: '' },
  );
  const { comment } = form.value;
  const several = useSeveralOutcomes();
  useFocusBack();
  const buttons = useRef<Partial<Record<Decision, HTMLElement | null>>>({});
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState<Decision | null>(null);
  const say = async (decision: Decision): Promise<void> => {
    if (decision === 'later' && comment.trim() === '') {
      setError(new PageError('Say in a word why it cannot be decided yet.'));
      field.current?.focus();
      return;
    }
    setBusy(decision);
    setError(null);
    try {
      const body = { version: approval.version, decision, comment, inPlace };
      const made = await call(routes.decide, { params: { id: document.id }, body });
      form.done();
      await refreshDocument(client, document.id);
      const after = await client.fetchQuery(documentQuery(document.id));
      void message.success(whatCameOf(decision, made, after));
      onDone?.();
    } catch (refusal) {
      setError(refusal);
      field.current?.focus();
    } finally {
      setBusy(null);
    }
  };
  const options = { enabled: keys && busy === null, useKey: true, preventDefault: true };
  // A letter leads to its button; Enter there decides.
  useHotkeys('a', () => buttons.current.approve?.focus(), options);
  useHotkeys('r', () => buttons.current.reject?.focus(), options);
  useHotkeys('l', () => buttons.current.later?.focus(), options);
  useHotkeys('c', () => field.current?.focus(), options);
  const outlook = inPlace ? approval.ifApprovedInPlace : approval.ifApproved;
  const hint = inPlace ? 'Why do you decide in their place?' : 'Comment (needed to reject or to wait)';
  return (
    <form
      className="consequences deciding"
      aria-label={inPlace ? 'Decide in their place' : 'Decide'}
      onSubmit={(event) => event.preventDefault()}
      onKeyDown={several.onKeyDown}
    >
      <p>
        {ifApproved(document, approval, outlook)} If you reject, it goes back to its author.
        {inPlace && ' Those who are asked are told; the record says that you decided in their place.'}
      </p>
      <Input
        dir="auto"
        ref={field}
        value={comment}
        maxLength={4000}
        placeholder={hint}
        aria-label={inPlace ? 'Reason for deciding in their place' : 'Comment on the decision'}
        onChange={(event) => form.change({ comment: event.target.value })}
      />
      <div className="acts">
        <Button
          ref={(button) => void (buttons.current.approve = button)}
          type="primary"
          onClick={() => void say('approve')}
          loading={busy === 'approve'}
          disabled={busy !== null && busy !== 'approve'}
        >
          Approve {numberWords(approval.version)}
        </Button>
        <Button
          ref={(button) => void (buttons.current.reject = button)}
          disabled={busy !== null}
          onClick={() => void say('reject')}
        >
          Reject
        </Button>
        {!inPlace && (
          <button
            ref={(button) => void (buttons.current.later = button)}
            type="button"
            className="quiet"
            disabled={busy !== null}
            onClick={() => void say('later')}
          >
            Postpone (say why)
          </button>
        )}
        {onLeave && (
          <button type="button" className="quiet" onClick={onLeave}>
            Cancel
          </button>
        )}
      </div>
      {several.hint}
      <Refusal error={error} onLeave={() => setError(null)} />
    </form>
  );
}

const names = (people: readonly { name: string }[]): string => people.map(({ name }) => name).join(', ');

/** What one's word came to: who is asked next, or what the version is now. */
function whatCameOf(decision: Decision, made: Version, after: Document): string {
  if (made.standing === 'inForce') return `${after.number} ${made.label} is in force.`;
  if (made.standing === 'scheduled' && made.inForceFrom)
    return `${after.number} ${numberWords(made.label)} comes into force ${fullTime(made.inForceFrom)}.`;
  if (decision === 'reject') return `${made.label} is rejected; ${made.author.name} is told.`;
  if (decision === 'later')
    return `${numberWords(made.label)} still waits for you; your comment is shown next to your name.`;
  const next = after.approval?.waitingFor ?? [];
  if (next.length > 0)
    return `You approved ${made.label}. ${names(next)} ${next.length === 1 ? 'is' : 'are'} asked next.`;
  return `${numberWords(made.label)} is approved and can be published.`;
}

/** What one's agreement would come to. */
function ifApproved(
  { owner, inForce }: Document,
  { mode, becomes }: Approval,
  outlook: Approval['ifApproved'],
): string {
  if (!outlook) return '';
  const { asked, published } = outlook;
  const kept = inForce ? `readers keep ${numberWords(inForce.label)}` : 'readers see nothing';
  if (asked.length > 0) {
    const are = asked.length === 1 ? 'is' : 'are';
    return `If you approve, ${names(asked)} ${are} ${mode === 'serial' ? 'asked next' : 'still asked'}; until then ${kept}.`;
  }
  if (!published)
    return `If you approve, ${owner.name} or an author can publish it as ${becomes}; until then ${kept}.`;
  const instead = inForce ? ` instead of ${numberWords(inForce.label)}` : '';
  const when = published.inForceFrom ? `from ${fullTime(published.inForceFrom)}` : 'from now';
  const never = outlook.never.map(
    (label) => ` ${label}, which waits for its moment, then never comes into force.`,
  );
  return `If you approve, readers get ${numberWords(published.label)}${instead} ${when}.${never.join('')}`;
}
