import { formatLabel } from '../numbering/number.ts';
import type { Actor } from '../policy/roles.ts';
import type { Change, DocumentState, Outcome } from './document.ts';
import { firstRefusal, refuseByRole, refuseComment, refuseInApproval, refuseUnseenLatest, refuseWhileHeld } from './document.ts';
import { addVersion } from './newVersion.ts';
import { refuse, type Refusal } from './refusal.ts';
import type { Version } from './version.ts';

/**
 * Publishes the open draft: a new x.0 with the draft's content comes into force, the draft stays. Without a comment it takes the
 * draft's, never the draft's number: readers see the comment of what is in force, and nothing of drafts.
 * The holder may publish the base they hold; the base then moves along, its content being the same.
 */
export function publish(state: DocumentState, actor: Actor, command: { version: Version; comment: string }, now: Date): Outcome {
  const heldByActor = state.custody?.holderId === actor.id;
  const from = formatLabel(command.version, state.presentEra);
  const refusal = firstRefusal(
    refuseByRole(actor, 'publish', 'Publishing'),
    refuseUnseenLatest(state, actor),
    heldByActor ? null : refuseWhileHeld(state, actor),
    refuseInApproval(state),
    refuseOther(state, command.version, from),
    refuseComment(command.comment, false),
  );
  if (refusal) return refusal;
  const { label, version, changes } = addVersion(state, {
    level: 'major',
    authorId: actor.id,
    comment: command.comment.trim() || command.version.comment,
    origin: { kind: 'publish', from: command.version.id },
    content: command.version.content,
    fields: command.version.fields,
  }, now);
  const base: Change[] = heldByActor ? [{ kind: 'moveBase', to: 'new' }] : [];
  return { changes: [...changes, ...base], ledger: { act: 'publish', facts: { label, from, comment: version.comment } } };
}

function refuseOther(state: DocumentState, version: Version, label: string): Refusal | null {
  if (state.latest.state === 'published') {
    return refuse('conflict', 'nothing-to-publish', `${state.number} has no open draft; ${formatLabel(state.latest, state.presentEra)} is published already.`);
  }
  if (version.id !== state.latest.id) {
    const latest = formatLabel(state.latest, state.presentEra);
    return refuse('conflict', 'not-the-latest', `${label} is not the latest draft, ${latest} is. Publish ${latest}, or restore ${label} first.`,
      { version: label, latest });
  }
  return null;
}
