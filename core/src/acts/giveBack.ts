import type { Actor } from '../rules/roles.ts';
import { refuseNotHolding } from './refusals.ts';
import type { DocumentState, Outcome } from './state.ts';

/** Ends one's own check-out without a version; what was saved is gone. Uses up no number. */
export function giveBack(state: DocumentState, actor: Actor): Outcome {
  const refusal = refuseNotHolding(state, actor);
  if (refusal) return refusal;
  return {
    changes: [{ kind: 'closeCustody', how: 'givenBack', reason: null }],
    ledger: { act: 'giveBack', facts: { saves: state.custody?.saves ?? 0 } },
  };
}
