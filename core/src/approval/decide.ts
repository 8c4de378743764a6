import { formatLabel } from '../numbering/number.ts';
import type { Actor } from '../policy/roles.ts';
import { may } from '../policy/roles.ts';
import type { Change, DocumentState, Outcome } from '../versions/document.ts';
import { firstRefusal, refuseComment } from '../versions/document.ts';
import { publication } from '../versions/newVersion.ts';
import { refuse, type Refusal } from '../versions/refusal.ts';
import type { Version } from '../versions/version.ts';
import { type ApprovalDecision, type ApprovalRun, isComplete, waitingFor } from './run.ts';

export interface Decide { version: Version; decision: ApprovalDecision; comment: string }

/**
 * An approver's word about the version in approval. One rejection ends the run; the approval that completes it publishes the version, or
 * leaves it approved, as the Rulebook says.
 */
export function decide(state: DocumentState, actor: Actor, command: Decide, now: Date): Outcome {
  const label = formatLabel(command.version, state.presentEra);
  const run = state.approval;
  if (!run) return refuse('conflict', 'not-in-approval', `${state.number} is not in approval; there is nothing to decide.`);
  const refusal = firstRefusal(
    refuseOtherVersion(state, run, command.version, label),
    refuseNotAsked(state, actor, run, command.version),
    refuseComment(command.comment, false),
    command.decision !== 'approve' && command.comment.trim() === ''
      ? refuse('invalid', 'comment-missing', command.decision === 'reject' ? 'A rejection needs a comment. Say in a sentence what is wrong.' : 'Say in a sentence why you decide later.') : null,
  );
  if (refusal) return refusal;
  const comment = command.comment.trim();
  const changes: Change[] = [{ kind: 'decidePost', personId: actor.id, decision: command.decision, at: now, comment }];
  const ledger = { act: command.decision, facts: { version: label, comment } as Record<string, unknown> };
  if (command.decision === 'reject') {
    changes.push({ kind: 'setState', versionId: run.versionId, state: 'rejected' }, { kind: 'closeRun', outcome: 'rejected', at: now });
  }
  const posts = run.posts.map((post) => (post.personId === actor.id ? { ...post, decision: command.decision } : post));
  if (command.decision === 'approve' && isComplete({ ...run, posts })) {
    changes.push({ kind: 'closeRun', outcome: 'approved', at: now });
    if (state.rules.approval.publishing === 'byOwner') changes.push({ kind: 'setState', versionId: run.versionId, state: 'approved' });
    else {
      const published = publication(state, command.version, { authorId: actor.id, comment: run.comment || command.version.comment, inForceFrom: run.inForceFrom }, now);
      changes.push(...published.changes);
      ledger.facts = { ...ledger.facts, published: published.label, inForceFrom: published.inForceFrom.toISOString() };
    }
  }
  return { changes, ledger };
}

function refuseOtherVersion(state: DocumentState, run: ApprovalRun, version: Version, label: string): Refusal | null {
  if (version.id === run.versionId) return null;
  const asked = formatLabel(state.latest, state.presentEra);
  return refuse('conflict', 'other-version', `The decision is about ${asked}, not ${label}. Look at ${asked} and decide about it.`, { asked, given: label });
}

function refuseNotAsked(state: DocumentState, actor: Actor, run: ApprovalRun, version: Version): Refusal | null {
  const post = run.posts.find(({ personId }) => personId === actor.id);
  const names = run.posts.map(({ name }) => name).join(', ');
  if (!post) return refuse('forbidden', 'not-asked', `${state.number} is decided by ${names}.`, { approvers: names });
  if (!may(actor.roles, 'decide')) return refuse('forbidden', 'role-missing', 'Deciding is for approvers of this library; you no longer are one.');
  if (version.authorId === actor.id && !state.rules.approval.authorMayApprove) {
    return refuse('forbidden', 'own-version', 'You made this version; in this library authors do not approve their own.');
  }
  if (post.decision === 'approve' || post.decision === 'reject') return refuse('conflict', 'decided-already', 'You have decided about this version already.');
  if (waitingFor(run).includes(post)) return null;
  return refuse('conflict', 'not-your-turn', `Approvers decide in turn here; ${waitingFor(run)[0]?.name} is asked first.`, { waitingFor: waitingFor(run)[0]?.name });
}
