import { formatLabel } from '../numbering/number.ts';
import type { Actor } from '../policy/roles.ts';
import type { Change, DocumentState, Outcome } from './document.ts';
import { firstRefusal, refuseByRole, refuseComment, refuseInApproval, refuseMoment, refuseUnseenLatest, refuseWhileHeld } from './document.ts';
import { publication } from './newVersion.ts';
import { refuse, type Refusal } from './refusal.ts';
import type { Version } from './version.ts';

export interface Publish { version: Version; comment: string; inForceFrom: Date | null }

/**
 * Publishes the open draft: a new x.0 with the draft's content comes into force, the draft stays. Without a comment it takes the
 * draft's, never the draft's number: readers see the comment of what is in force, and nothing of drafts. Where approval is on the draft has to
 * be approved. The holder may publish the base they hold; the base then moves along, its content being the same.
 */
export function publish(state: DocumentState, actor: Actor, command: Publish, now: Date): Outcome {
  const heldByActor = state.custody?.holderId === actor.id;
  const from = formatLabel(command.version, state.presentEra);
  const owns = state.ownerId === actor.id && actor.roles.size > 0;
  const refusal = firstRefusal(
    owns ? null : refuseByRole(actor, 'publish', 'Publishing'),
    refuseUnseenLatest(state, actor),
    heldByActor ? null : refuseWhileHeld(state, actor),
    refuseInApproval(state),
    refuseOther(state, command.version, from),
    refuseNotApproved(state, from),
    refuseComment(command.comment, false),
    refuseMoment(command.inForceFrom, now),
  );
  if (refusal) return refusal;
  const comment = command.comment.trim() || command.version.comment;
  const { label, changes, adds, inForceFrom } = publication(state, command.version, { authorId: actor.id, comment, inForceFrom: command.inForceFrom }, now);
  const base: Change[] = heldByActor && adds ? [{ kind: 'moveBase', to: 'new' }] : [];
  return { changes: [...changes, ...base], ledger: { act: 'publish', facts: { label, from, comment, inForceFrom: inForceFrom.toISOString() } } };
}

function refuseOther(state: DocumentState, version: Version, label: string): Refusal | null {
  const latest = formatLabel(state.latest, state.presentEra);
  if (state.latest.state === 'published' || state.latest.state === 'withdrawn') {
    return refuse('conflict', 'nothing-to-publish', `${state.number} has no open draft; ${latest} is ${state.latest.state} already.`);
  }
  if (version.id !== state.latest.id) {
    return refuse('conflict', 'not-the-latest', `${label} is not the latest draft, ${latest} is. Publish ${latest}, or restore ${label} first.`,
      { version: label, latest });
  }
  return null;
}

function refuseNotApproved(state: DocumentState, label: string): Refusal | null {
  if (!state.rules.approval.on || state.latest.state === 'approved') return null;
  return refuse('conflict', 'needs-approval', `${label} is not approved. In this library a draft is published once its approvers agree; submit it.`);
}
