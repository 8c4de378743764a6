import { type Refusal, refuse } from '../document/refusal.ts';
import { type ApprovalRun, type Approver, canDecide, openPost, waitingFor } from '../rules/approvalRun.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { firstRefusal, knownRun, refuseReason, refuseWithoutRun } from './refusals.ts';
import { type DocumentState, labelIn, type Notice, type Outcome, sightFacts } from './state.ts';

/** Somebody put in the place of an approver who is asked. */
export interface ReplaceApprover {
  from: { id: string; name: string };
  to: Approver;
  reason: string;
}

/**
 * Puts one person in the place of another who was asked and has not decided: in the same turn, about the same
 * version. Both are told, with the reason.
 */
export function replaceApprover(
  state: DocumentState,
  actor: Actor,
  { from, to, reason }: ReplaceApprover,
  now: Date,
): Outcome {
  const run = knownRun(state, actor);
  const refusal = firstRefusal(
    refuseReplacing(state, actor),
    run && refuseFrom(state, run, from),
    run && refuseTo(state, run, to),
    refuseReason(reason, 'Say in a sentence why another is asked; both are told.'),
  );
  if (refusal || !run) return refusal ?? refuseWithoutRun(state, actor, 'nobody is asked');
  const label = labelIn(state, state.latest);
  const posts = run.posts.map((post) => (post.personId === from.id ? openPost(to) : post));
  const isAskedNow = waitingFor({ ...run, posts }).some(({ personId }) => personId === to.id);
  const at = now.getTime();
  const told = { by: actor.name, label, reason: reason.trim() };
  const notices: Notice[] = [
    {
      kind: 'replaced',
      personIds: [from.id],
      about: `replaced:${run.versionId}:${at}`,
      facts: { ...told, to: to.name },
    },
    {
      kind: 'putInPlace',
      personIds: [to.id],
      about: `putInPlace:${run.versionId}:${at}`,
      facts: { ...told, from: from.name, asked: isAskedNow ? 'now' : 'afterwards' },
    },
  ];
  return {
    changes: [{ kind: 'replacePost', fromId: from.id, to: { id: to.id, name: to.name } }],
    ledger: {
      act: 'replaceApprover',
      facts: { version: label, from: from.name, to: to.name, reason: told.reason },
    },
    notices,
  };
}

/** Why the actor could put nobody in an approver's place; null where they could. */
export const refuseReplacing = (state: DocumentState, actor: Actor): Refusal | null =>
  refuseByRole(actor, 'replaceApprover', "Putting somebody in an approver's place") ??
  (knownRun(state, actor) ? null : refuseWithoutRun(state, actor, 'nobody is asked'));

function refuseFrom(state: DocumentState, run: ApprovalRun, from: ReplaceApprover['from']): Refusal | null {
  const post = run.posts.find(({ personId }) => personId === from.id);
  if (post && (post.decision === null || post.decision === 'later')) return null;
  const label = labelIn(state, state.latest);
  const reason = post
    ? `${from.name} has decided about ${label} already; that stays.`
    : `${from.name} is not asked about ${label}.`;
  return refuse('conflict', 'not-asked-there', reason, { from: from.name });
}

function refuseTo(state: DocumentState, run: ApprovalRun, to: Approver): Refusal | null {
  const label = labelIn(state, state.latest);
  if (run.posts.some(({ personId }) => personId === to.id)) {
    return refuse('conflict', 'asked-already', `${to.name} is asked about ${label} already.`, {
      to: to.name,
    });
  }
  if (canDecide(state.rules, to, sightFacts(state, state.latest))) return null;
  const reason = `${to.name} cannot decide about ${label}: an approver needs the role, sees versions in approval, and is not their author here.`;
  return refuse('conflict', 'cannot-decide', reason, { to: to.name });
}
