import type { Actor } from '../policy/roles.ts';
import type { DocumentState, Outcome } from './document.ts';
import { firstRefusal, refuseByRole, refuseComment, refuseInApproval, refuseUnseenLatest, refuseWhileHeld } from './document.ts';
import { addVersion, refuseLevel } from './newVersion.ts';
import { isRefusal, refuse } from './refusal.ts';
import type { Fields, Level } from './version.ts';

/** Changes fields: a version too, with the same content. Under stepped numbers without a level it is the next draft. */
export function changeFields(
  state: DocumentState, actor: Actor, command: { fields: Partial<Fields>; comment: string; level?: Level | undefined }, now: Date,
): Outcome {
  const level = command.level ?? (state.rules.numbering === 'stepped' ? 'minor' : 'major');
  const refusal = firstRefusal(
    refuseByRole(actor, 'changeFields', 'Changing fields'),
    refuseUnseenLatest(state, actor),
    refuseWhileHeld(state, actor),
    refuseInApproval(state),
    refuseLevel(state.rules, level),
    refuseComment(command.comment, false),
  );
  if (refusal) return refusal;
  const before = state.latest.fields;
  const fields = { ...before, ...command.fields };
  const changed = Object.keys(fields).filter((name) =>
    JSON.stringify(fields[name as keyof Fields]) !== JSON.stringify(before[name as keyof Fields]));
  if (changed.length === 0) return refuse('invalid', 'nothing-changed', 'The fields are as they were; there is nothing to record.');
  const added = addVersion(state, actor, {
    level,
    authorId: actor.id,
    comment: command.comment.trim() || `Changed ${changed.join(', ')}`,
    origin: { kind: 'fields', from: state.latest.id },
    content: state.latest.content,
    fields,
  }, now);
  if (isRefusal(added)) return added;
  return { changes: added.changes, ledger: { act: 'fields', facts: { label: added.label, changed } } };
}
