import { type Refusal, refuse } from '../document/refusal.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { firstRefusal, refuseReason } from './refusals.ts';
import { type Change, type DocumentState, labelIn, type Notice, type Outcome } from './state.ts';

/**
 * Ends somebody else's check-out, with a reason. What they saved moves to their Desk as a copy set aside,
 * whose base stays; the document is free, and they are told.
 */
export function lift(state: DocumentState, actor: Actor, command: { reason: string }): Outcome {
  const refusal = firstRefusal(
    refuseByRole(actor, 'lift', 'Lifting a check-out'),
    refuseOwn(state, actor),
    refuseReason(command.reason, 'Say in a sentence why the check-out is lifted; its holder reads it.'),
  );
  if (refusal) return refusal;
  const { custody } = state;
  if (!custody) return notHeld(state);
  const reason = command.reason.trim();
  const setsAside = custody.workingCopy !== null;
  const aside: Change[] = setsAside ? [{ kind: 'setAside', reason }] : [];
  const notice: Notice = {
    kind: 'lifted',
    personIds: [custody.holderId],
    about: `lifted:${state.id}:${custody.since.getTime()}`,
    facts: { by: actor.name, reason, setAside: setsAside ? 'yes' : null },
  };
  return {
    changes: [...aside, { kind: 'closeCustody', how: 'lifted', reason }],
    ledger: {
      act: 'lift',
      facts: {
        holder: custody.holderName,
        since: custody.since.toISOString(),
        base: labelIn(state, custody.base),
        saves: custody.saves,
        setAside: setsAside,
        reason,
      },
    },
    notices: [notice],
  };
}

const notHeld = ({ number }: DocumentState): Refusal =>
  refuse('conflict', 'not-checked-out', `${number} is not checked out; there is nothing to lift.`);

function refuseOwn(state: DocumentState, actor: Actor): Refusal | null {
  if (!state.custody) return notHeld(state);
  if (state.custody.holderId !== actor.id) return null;
  return refuse('conflict', 'held-by-you', `You hold ${state.number} yourself. Check it in or give it back.`);
}
