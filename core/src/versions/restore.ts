import { formatLabel } from '../numbering/number.ts';
import type { Actor } from '../policy/roles.ts';
import type { DocumentState, Outcome } from './document.ts';
import { explainVersion, firstRefusal, refuseByRole, refuseComment, refuseInApproval, refuseUnseenLatest, refuseWhileHeld } from './document.ts';
import { addVersion, refuseLevel } from './newVersion.ts';
import { isRefusal, refuse, type Refusal } from './refusal.ts';
import type { Level, Version } from './version.ts';

export interface Restore {
  from: Version;
  level: Level;
  comment: string;
  /** Whether the earlier version's fields come back too. */
  fields: boolean;
}

/** Copies an earlier version's content into a new version; nothing in between is lost (docs/rules.md, Restore). */
export function restore(state: DocumentState, actor: Actor, command: Restore, now: Date): Outcome {
  const from = formatLabel(command.from, state.presentEra);
  const refusal = firstRefusal(
    refuseByRole(actor, 'restore', 'Restoring a version'),
    refuseUnseenLatest(state, actor),
    refuseWhileHeld(state, actor),
    refuseInApproval(state),
    refuseSource(state, actor, command.from, from),
    refuseLevel(state.rules, command.level),
    refuseComment(command.comment, false),
  );
  if (refusal) return refusal;
  const added = addVersion(state, actor, {
    level: command.level,
    authorId: actor.id,
    comment: command.comment.trim() || 'Earlier content brought back',
    origin: { kind: 'restore', from: command.from.id },
    content: command.from.content,
    fields: command.fields ? command.from.fields : state.latest.fields,
  }, now);
  if (isRefusal(added)) return added;
  const { label, version, changes } = added;
  return { changes, ledger: { act: 'restore', facts: { label, from, state: version.state, comment: version.comment } } };
}

function refuseSource(state: DocumentState, actor: Actor, source: Version, label: string): Refusal | null {
  const sight = explainVersion(state, actor, source);
  if (!sight.sees) return refuse('forbidden', 'not-seen', sight.why);
  if (source.thinned) return refuse('conflict', 'content-thinned', `The content of ${label} was thinned. Recover it first.`);
  if (source.id === state.latest.id) {
    return refuse('invalid', 'nothing-to-restore', `${label} is the latest version already; there is nothing to bring back.`);
  }
  return null;
}
