import type { Actor } from '../rules/roles.ts';
import { firstRefusal, refuseNotHolding, refusePast } from './refusals.ts';
import type { DocumentState, Outcome } from './state.ts';

/** Moves the end of one's own check-out. */
export function prolong(state: DocumentState, actor: Actor, command: { until: Date }, now: Date): Outcome {
  const refusal = firstRefusal(refuseNotHolding(state, actor), refusePast(command.until, now));
  if (refusal) return refusal;
  return {
    changes: [{ kind: 'setUntil', until: command.until }],
    ledger: { act: 'prolong', facts: { until: command.until.toISOString() } },
  };
}
