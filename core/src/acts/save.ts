import { isRefusal } from '../document/refusal.ts';
import type { ContentFacts } from '../document/version.ts';
import { refuseTooLarge } from '../rules/allowance.ts';
import type { Actor } from '../rules/roles.ts';
import { addVersion } from './addVersion.ts';
import { firstRefusal, refuseNotHolding } from './refusals.ts';
import type { DocumentState, Outcome } from './state.ts';

/** An edited file to be kept as the working copy. */
export interface Save {
  content: ContentFacts;
  /** Given where an editor saves by itself: such saves of one sitting are one step, and no draft. */
  sitting?: string | null;
}

/**
 * Keeps an edited file as the working copy. Makes no version, unless the library's saves are drafts: then
 * each save is the next draft, and the check-out's base moves to it.
 */
export function saveWorkingCopy(state: DocumentState, actor: Actor, command: Save, now: Date): Outcome {
  const { content, sitting = null } = command;
  const { rules, custody } = state;
  const refusal = firstRefusal(refuseNotHolding(state, actor), refuseTooLarge(rules, content.size));
  if (refusal) return refusal;
  if (sitting === null && rules.saves === 'drafts' && rules.numbering === 'stepped') {
    return saveDraft(state, actor, content, now);
  }
  const replaces = sitting !== null && custody?.sitting === sitting;
  return {
    changes: [{ kind: 'saveWorkingCopy', content, at: now, sitting, replaces }],
    ledger: replaces ? null : { act: 'save', facts: { sha256: content.sha256, size: content.size } },
  };
}

function saveDraft(state: DocumentState, actor: Actor, content: ContentFacts, now: Date): Outcome {
  const making = {
    level: 'minor' as const,
    comment: 'Saved while checked out',
    origin: { kind: 'save' as const, from: state.custody?.base.id ?? null },
    content,
    fields: state.latest.fields,
  };
  const added = addVersion(state, actor, making, now);
  if (isRefusal(added)) return added;
  const facts = { label: added.label, sha256: content.sha256, size: content.size };
  return {
    changes: [...added.changes, { kind: 'emptyWorkingCopy' }, { kind: 'moveBase', to: 'new' }],
    ledger: { act: 'save', facts },
  };
}
