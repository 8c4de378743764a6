import { type Refusal, refuse } from '../document/refusal.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { type ByHand, refuseThinned, refuseUnseen } from './byHand.ts';
import { firstRefusal, refuseReason } from './refusals.ts';
import { type DocumentState, labelIn, type Outcome } from './state.ts';

/** Which version is exempted from thinning, or is so no longer. */
export interface Shelter extends ByHand {
  sheltered: boolean;
}

/** Exempts a version from thinning, or ends that. */
export function shelter(state: DocumentState, actor: Actor, command: Shelter): Outcome {
  const { version, reason, sheltered } = command;
  const doing = sheltered ? 'Sheltering a version' : 'Ending the shelter of a version';
  const ask = sheltered
    ? 'Say in a sentence why this version must stay.'
    : 'Say in a sentence why this version need not stay.';
  const refusal = firstRefusal(
    refuseByRole(actor, 'shelter', doing),
    refuseUnseen(state, actor, version),
    refuseThinned(state, version),
    refuseSame(state, command),
    refuseReason(reason, ask),
  );
  if (refusal) return refusal;
  const facts = { version: labelIn(state, version), reason: reason.trim() };
  return {
    changes: [{ kind: 'shelter', versionId: version.id, sheltered }],
    ledger: { act: sheltered ? 'shelter' : 'unshelter', facts },
  };
}

function refuseSame(state: DocumentState, { version, sheltered }: Shelter): Refusal | null {
  if (version.sheltered !== sheltered) return null;
  const label = labelIn(state, version);
  return sheltered
    ? refuse('conflict', 'sheltered-already', `${label} is sheltered already.`)
    : refuse('conflict', 'not-sheltered', `${label} is not sheltered.`);
}
