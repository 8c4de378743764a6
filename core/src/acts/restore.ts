import { isRefusal, type Refusal, refuse } from '../document/refusal.ts';
import type { Level, Version } from '../document/version.ts';
import { levelOf, refuseLevel } from '../rules/levels.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { addVersion } from './addVersion.ts';
import { refuseThinned } from './byHand.ts';
import { explainVersion, firstRefusal, refuseComment, refuseUnfree } from './refusals.ts';
import { type DocumentState, labelIn, type Outcome } from './state.ts';

/** Which earlier version comes back, and as what. */
export interface Restore {
  from: Version;
  level?: Level | undefined;
  comment: string;
  /** Whether the earlier version's fields come back too. */
  fields: boolean;
}

/**
 * Copies an earlier version's content into a new version; nothing in between is lost (docs/rules.md,
 * Restore).
 */
export function restore(state: DocumentState, actor: Actor, command: Restore, now: Date): Outcome {
  const source = command.from;
  const from = labelIn(state, source);
  const refusal = firstRefusal(
    refuseByRole(actor, 'restore', 'Restoring a version'),
    refuseUnfree(state, actor),
    refuseSource(state, actor, source),
    refuseLevel(state.rules, command.level),
    refuseComment(command.comment, false),
  );
  if (refusal) return refusal;
  const making = {
    level: levelOf(command.level),
    comment: command.comment.trim() || 'Earlier content brought back',
    origin: { kind: 'restore' as const, from: source.id },
    content: source.content,
    fields: command.fields ? source.fields : state.latest.fields,
  };
  const added = addVersion(state, actor, making, now);
  if (isRefusal(added)) return added;
  const { label, version, changes, notices } = added;
  const facts = { label, from, state: version.state, comment: version.comment };
  return { changes, ledger: { act: 'restore', facts }, notices };
}

function refuseSource(state: DocumentState, actor: Actor, source: Version): Refusal | null {
  const sight = explainVersion(state, actor, source);
  if (!sight.sees) return refuse('forbidden', 'not-seen', sight.why);
  const thinned = refuseThinned(state, source);
  if (thinned) return thinned;
  if (source.id !== state.latest.id) return null;
  const reason = `${labelIn(state, source)} is the latest version already; there is nothing to bring back.`;
  return refuse('invalid', 'nothing-to-restore', reason);
}
