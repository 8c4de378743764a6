import { routes, type Document } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { App, Button, Input } from 'antd';
import { useState } from 'react';
import { call } from './api.ts';
import { Consequences } from './Consequences.tsx';
import { refreshDocument } from './queries.ts';
import { Refusal } from './Refusal.tsx';
import { dayTime, fullTime } from './when.ts';

/** The approval run of a document: who was asked, what they said, and what one can say oneself. */
export function ApprovalActs({ document, onDone }: { document: Document; onDone?: () => void }) {
  const { approval, acts, inForce, toCome } = document;
  const client = useQueryClient();
  const { message } = App.useApp();
  const [comment, setComment] = useState('');
  const [error, setError] = useState<unknown>(null);
  const [calling, setCalling] = useState(false);
  const [busy, setBusy] = useState(false);
  if (!approval) return null;
  const say = async (decision: 'approve' | 'reject' | 'later'): Promise<void> => {
    setBusy(true);
    setError(null);
    try {
      const made = await call(routes.decide, { params: { id: document.id }, body: { version: approval.version, decision, comment } });
      void message.success(made.standing === 'inForce' ? `${document.number} ${made.label} is in force.` : decision === 'reject' ? `${approval.version} is rejected.` : 'Your decision is noted.');
      setComment('');
      await refreshDocument(client, document.id);
      onDone?.();
    } catch (refusal) { setError(refusal); } finally { setBusy(false); }
  };
  const callBack = async (why: string): Promise<void> => {
    await call(routes.callBack, { params: { id: document.id }, body: { comment: why } });
    await refreshDocument(client, document.id);
  };
  const last = approval.waitingFor.length === 1 || approval.mode === 'anyOne';
  return (
    <section className="approval" aria-label="Approval">
      <p>
        <strong>{approval.version}</strong> was submitted by {approval.submittedBy.name}, <span title={fullTime(approval.at)}>{dayTime(approval.at)}</span>
        {approval.comment && <>: “{approval.comment}”</>}. {{ serial: 'Its approvers decide one after another', together: 'All of its approvers decide', anyOne: 'One approver is enough' }[approval.mode]}:
      </p>
      <ol className="posts">
        {approval.posts.map((post) => (
          <li key={post.person.account}>
            <span className={post.decision === 'approve' ? 'post post-decided' : 'post'} aria-hidden="true" /> {post.person.name}{' '}
            <span className="muted">{post.decision === 'approve' ? 'agrees' : post.decision === 'reject' ? 'rejects' : post.decision === 'later' ? 'decides later' : approval.waitingFor.some(({ account }) => account === post.person.account) ? 'is asked now' : 'is asked afterwards'}
              {post.at && `, ${dayTime(post.at)}`}{post.comment && `: “${post.comment}”`}</span>
          </li>
        ))}
      </ol>
      {acts.decide.allowed && (
        <form className="consequences" onSubmit={(event) => { event.preventDefault(); void say('approve'); }}>
          <p>
            {!last ? 'If you approve, the others are still asked.' : approval.publishes
              ? `If you approve, readers get ${approval.becomes}${inForce ? ` instead of ${inForce.label}` : ''} ${approval.inForceFrom ? `from ${fullTime(approval.inForceFrom)}` : 'from now'}.`
              : `If you approve, ${document.owner.name} or an author can publish it as ${approval.becomes}; until then ${inForce ? `readers see ${inForce.label}` : 'readers see nothing'}.`} If you reject, it goes back to its author.
          </p>
          <Input value={comment} maxLength={4000} placeholder="Comment (needed to reject)" aria-label="Comment on the decision" onChange={(event) => setComment(event.target.value)} />
          <div className="acts">
            <Button type="primary" htmlType="submit" loading={busy}>Approve {approval.version}</Button>
            <Button disabled={busy} onClick={() => void say('reject')}>Reject</Button>
            <button type="button" className="quiet" disabled={busy} onClick={() => void say('later')}>Later</button>
          </div>
        </form>
      )}
      <Refusal error={error} onLeave={() => setError(null)} />
      {acts.callBack.allowed && !calling && <button type="button" className="quiet" onClick={() => setCalling(true)}>Call it back</button>}
      {calling && <Consequences outcomes={[{ label: `Make ${approval.version} a draft again`, act: callBack }]} commentHint="Why? (optional)" onLeave={() => setCalling(false)}>
        The decisions so far are kept in the record and no longer count; {approval.waitingFor.map(({ name }) => name).join(', ')} {approval.waitingFor.length === 1 ? 'is' : 'are'} no longer asked{toCome || !inForce ? '' : `, readers go on seeing ${inForce.label}`}.
      </Consequences>}
    </section>
  );
}
