import type { Actor } from '../policy/roles.ts';
import type { DocumentState } from '../versions/document.ts';
import { refuse, type Refusal } from '../versions/refusal.ts';

/** Refuses an act on a check-out that the actor does not hold; null when they hold it. */
export function refuseNotHolding(state: DocumentState, actor: Actor): Refusal | null {
  const { custody } = state;
  if (!custody) {
    return refuse('conflict', 'not-checked-out', `${state.number} is not checked out. Check it out first.`);
  }
  if (custody.holderId !== actor.id) {
    return refuse('conflict', 'held', `${custody.holderName} holds ${state.number}, not you.`,
      { holder: custody.holderName, since: custody.since.toISOString() });
  }
  return null;
}
