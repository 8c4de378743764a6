import { type Refusal, refuse } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { type ByHand, refuseUnseen } from './byHand.ts';
import { firstRefusal, refuseReason } from './refusals.ts';
import { type DocumentState, labelIn, type Outcome } from './state.ts';

/**
 * Takes a thinned version's content back from the recovery shelf, and shelters it: the rules would only thin
 * it again.
 */
export function recover(state: DocumentState, actor: Actor, { version, reason }: ByHand, now: Date): Outcome {
  const label = labelIn(state, version);
  const refusal = firstRefusal(
    refuseByRole(actor, 'recover', 'Recovering a version'),
    refuseUnseen(state, actor, version),
    refuseOffShelf(version, label, now),
    refuseReason(reason, 'Say in a sentence why the content is wanted back.'),
  );
  if (refusal) return refusal;
  return {
    changes: [
      { kind: 'recover', versionId: version.id },
      { kind: 'shelter', versionId: version.id, sheltered: true },
    ],
    ledger: { act: 'recover', facts: { version: label, reason: reason.trim() } },
  };
}

function refuseOffShelf(version: Version, label: string, now: Date): Refusal | null {
  if (!version.thinned) {
    return refuse('conflict', 'not-thinned', `${label} was not thinned; its content is here.`);
  }
  if (version.thinned.until.getTime() > now.getTime()) return null;
  const until = version.thinned.until.toISOString();
  const reason = `The content of ${label} left the recovery shelf on ${until} and is gone. Its record stays.`;
  return refuse('conflict', 'off-the-shelf', reason, { until });
}
