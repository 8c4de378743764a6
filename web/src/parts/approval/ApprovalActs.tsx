import { type Approval, type Document, routes, type Version } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { Button, Input } from 'antd';
import { useState } from 'react';
import { PageError, call } from '../../ui/api.ts';
import { Consequences } from '../../ui/Consequences.tsx';
import { documentQuery, refreshDocument } from '../queries.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { dayTime, fullTime } from '../../ui/when.ts';
import { useMessages } from '../../ui/messages.tsx';
import './approval.css';

/** The approval run of a document: who was asked, what they said, and what one can say oneself. */
export function ApprovalActs({ document, onDone }: { document: Document; onDone?: () => void }) {
  const { approval, acts, inForce, toCome } = document;
  const client = useQueryClient();
  const message = useMessages();
  const [comment, setComment] = useState('');
  const [error, setError] = useState<unknown>(null);
  const [calling, setCalling] = useState(false);
  const [busy, setBusy] = useState(false);
  if (!approval) return null;
  const say = async (decision: 'approve' | 'reject' | 'later'): Promise<void> => {
    if (decision === 'later' && comment.trim() === '') {
      setError(new PageError('Say in a word why it cannot be decided yet.'));
      return;
    }
    setBusy(true);
    setError(null);
    try {
      const body = { version: approval.version, decision, comment };
      const made = await call(routes.decide, { params: { id: document.id }, body });
      setComment('');
      await refreshDocument(client, document.id);
      const after = await client.fetchQuery(documentQuery(document.id));
      void message.success(whatCameOf(decision, made, after));
      onDone?.();
    } catch (refusal) {
      setError(refusal);
    } finally {
      setBusy(false);
    }
  };
  const callBack = async (why: string): Promise<void> => {
    await call(routes.callBack, { params: { id: document.id }, body: { comment: why } });
    await refreshDocument(client, document.id);
  };
  return (
    <section className="approval" aria-label="Approval">
      <p>
        <strong>{approval.version}</strong> was submitted by {approval.submittedBy.name},{' '}
        <span title={fullTime(approval.at)}>{dayTime(approval.at)}</span>
        {approval.comment && <>: “{approval.comment}”</>}.{' '}
        {
          {
            serial: 'Its approvers decide one after another',
            together: 'All of its approvers decide',
            anyOne: 'One approver is enough',
          }[approval.mode]
        }
        :
      </p>
      <ol className="posts">
        {approval.posts.map((post) => (
          <li key={post.person.account}>
            <span className={post.decision === 'approve' ? 'post post-decided' : 'post'} aria-hidden="true" />{' '}
            {post.person.name}{' '}
            <span className="muted">
              {postWords(post, approval)}
              {post.at && `, ${dayTime(post.at)}`}
              {post.comment && `: “${post.comment}”`}
            </span>
          </li>
        ))}
      </ol>
      {acts.decide.allowed && (
        <form
          className="consequences"
          onSubmit={(event) => {
            event.preventDefault();
            void say('approve');
          }}
        >
          <p>{ifApproved(document, approval)} If you reject, it goes back to its author.</p>
          <Input
            value={comment}
            maxLength={4000}
            placeholder="Comment (needed to reject or to wait)"
            aria-label="Comment on the decision"
            onChange={(event) => setComment(event.target.value)}
          />
          <div className="acts">
            <Button type="primary" htmlType="submit" loading={busy}>
              Approve {approval.version}
            </Button>
            <Button disabled={busy} onClick={() => void say('reject')}>
              Reject
            </Button>
            <button type="button" className="quiet" disabled={busy} onClick={() => void say('later')}>
              Not yet, with a word why
            </button>
          </div>
        </form>
      )}
      <Refusal error={error} onLeave={() => setError(null)} />
      {acts.callBack.allowed && !calling && (
        <button type="button" className="quiet" onClick={() => setCalling(true)}>
          Take back the submission
        </button>
      )}
      {calling && (
        <Consequences
          outcomes={[{ label: `Make ${approval.version} a draft again`, act: callBack }]}
          commentHint="Why? (optional)"
          onLeave={() => setCalling(false)}
        >
          The decisions so far are kept in the record and no longer count;{' '}
          {approval.waitingFor.map(({ name }) => name).join(', ')}{' '}
          {approval.waitingFor.length === 1 ? 'is' : 'are'} no longer asked
          {toCome || !inForce ? '' : `, readers go on seeing ${inForce.label}`}.
        </Consequences>
      )}
    </section>
  );
}

const names = (people: readonly { name: string }[]): string => people.map(({ name }) => name).join(', ');

/** What one's word came to: who is asked next, or what the version is now. */
function whatCameOf(decision: 'approve' | 'reject' | 'later', made: Version, after: Document): string {
  if (made.standing === 'inForce') return `${after.number} ${made.label} is in force.`;
  if (made.standing === 'scheduled' && made.inForceFrom)
    return `${after.number} ${made.label} comes into force ${fullTime(made.inForceFrom)}.`;
  if (decision === 'reject') return `${made.label} is rejected; ${made.author.name} is told.`;
  if (decision === 'later') return `${made.label} still waits for you; your word stands beside your name.`;
  const next = after.approval?.waitingFor ?? [];
  if (next.length > 0)
    return `You agree with ${made.label}. ${names(next)} ${next.length === 1 ? 'is' : 'are'} asked next.`;
  return `${made.label} is approved and can be published.`;
}

type Post = Approval['posts'][number];
const decisionWords = { approve: 'agrees', reject: 'rejects', later: 'does not decide yet' } as const;

function postWords({ decision, person }: Post, { waitingFor }: Approval): string {
  if (decision) return decisionWords[decision];
  const now = waitingFor.some(({ account }) => account === person.account);
  return now ? 'is asked now' : 'is asked afterwards';
}

/** What one's agreement would come to. */
function ifApproved({ owner, inForce }: Document, { mode, becomes, ifApproved: outlook }: Approval): string {
  if (!outlook) return '';
  const { asked, published } = outlook;
  const kept = inForce ? `readers keep ${inForce.label}` : 'readers see nothing';
  if (asked.length > 0) {
    const are = asked.length === 1 ? 'is' : 'are';
    return `If you approve, ${names(asked)} ${are} ${mode === 'serial' ? 'asked next' : 'still asked'}; until then ${kept}.`;
  }
  if (!published)
    return `If you approve, ${owner.name} or an author can publish it as ${becomes}; until then ${kept}.`;
  const instead = inForce ? ` instead of ${inForce.label}` : '';
  const when = published.inForceFrom ? `from ${fullTime(published.inForceFrom)}` : 'from now';
  return `If you approve, readers get ${published.label}${instead} ${when}.`;
}
