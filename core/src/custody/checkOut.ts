import { formatLabel } from '../numbering/number.ts';
import type { Actor } from '../policy/roles.ts';
import type { DocumentState, Outcome } from '../versions/document.ts';
import { firstRefusal, refuseByRole, refuseComment, refuseInApproval, refuseUnseenLatest, refuseWhileHeld } from '../versions/document.ts';
import { addVersion } from '../versions/newVersion.ts';
import { isRefusal, refuse, type Refusal } from '../versions/refusal.ts';
import type { ContentFacts } from '../versions/version.ts';
import { refuseTooLarge } from '../versions/document.ts';
import { refuseNotHolding } from './holding.ts';

const dayInMilliseconds = 86_400_000;

/** Until when a check-out lasts that names no end: the library's days after `now`, or null for no end. */
export function defaultUntil(custodyDays: number | null, now: Date): Date | null {
  return custodyDays === null ? null : new Date(now.getTime() + custodyDays * dayInMilliseconds);
}

/** Takes a document into custody: the latest version becomes the base of the working copy. */
export function checkOut(state: DocumentState, actor: Actor, command: { reason: string | null; until: Date | null }, now: Date): Outcome {
  const refusal = firstRefusal(
    refuseByRole(actor, 'checkOut', 'Checking out'),
    refuseUnseenLatest(state, actor),
    refuseWhileHeld(state, actor),
    refuseInApproval(state),
    refuseComment(command.reason ?? '', false),
    refusePast(command.until, now),
  );
  if (refusal) return refusal;
  const until = command.until ?? defaultUntil(state.rules.custodyDays, now);
  return {
    changes: [{ kind: 'openCustody', holderId: actor.id, since: now, until, reason: command.reason, baseId: state.latest.id }],
    ledger: { act: 'checkOut', facts: { base: formatLabel(state.latest, state.presentEra), until: until?.toISOString() ?? null, reason: command.reason } },
  };
}

/** Moves the end of one's own check-out. */
export function prolong(state: DocumentState, actor: Actor, command: { until: Date }, now: Date): Outcome {
  const refusal = firstRefusal(refuseNotHolding(state, actor), refusePast(command.until, now));
  if (refusal) return refusal;
  return {
    changes: [{ kind: 'setUntil', until: command.until }],
    ledger: { act: 'prolong', facts: { until: command.until.toISOString() } },
  };
}

/**
 * Keeps an edited file as the working copy. Makes no version, unless the library's saves are drafts: then each save is the next draft, and
 * the check-out's base moves to it.
 * @param sitting given where an editor saves by itself: such saves of one sitting are one step, and no draft
 */
export function saveWorkingCopy(state: DocumentState, actor: Actor, content: ContentFacts, now: Date, sitting: string | null = null): Outcome {
  const refusal = firstRefusal(refuseNotHolding(state, actor), refuseTooLarge(state.rules, content.size));
  if (refusal) return refusal;
  if (sitting === null && state.rules.saves === 'drafts' && state.rules.numbering === 'stepped') return saveDraft(state, actor, content, now);
  const replaces = sitting !== null && state.custody?.sitting === sitting;
  return {
    changes: [{ kind: 'saveWorkingCopy', content, at: now, sitting, replaces }],
    ledger: replaces ? null : { act: 'save', facts: { sha256: content.sha256, size: content.size } },
  };
}

function saveDraft(state: DocumentState, actor: Actor, content: ContentFacts, now: Date): Outcome {
  const added = addVersion(state, actor, {
    level: 'minor', authorId: actor.id, comment: 'Saved while checked out',
    origin: { kind: 'save', from: state.custody?.base.id ?? null }, content, fields: state.latest.fields,
  }, now);
  if (isRefusal(added)) return added;
  return {
    changes: [...added.changes, { kind: 'emptyWorkingCopy' }, { kind: 'moveBase', to: 'new' }],
    ledger: { act: 'save', facts: { label: added.label, sha256: content.sha256, size: content.size } },
  };
}

/** Gives the document back without a version; what was saved is gone. Uses up no number. */
export function discard(state: DocumentState, actor: Actor): Outcome {
  const refusal = refuseNotHolding(state, actor);
  if (refusal) return refusal;
  return { changes: [{ kind: 'closeCustody', how: 'discarded', reason: null }], ledger: { act: 'discard', facts: { saves: state.custody?.saves ?? 0 } } };
}

function refusePast(until: Date | null, now: Date): Refusal | null {
  if (until === null || until.getTime() > now.getTime()) return null;
  return refuse('invalid', 'until-in-the-past', `A check-out cannot end at ${until.toISOString()}, which is past. Name a later moment.`,
    { until: until.toISOString() });
}
