import { formatLabel } from '../numbering/number.ts';
import type { Actor } from '../policy/roles.ts';
import type { Change, DocumentState, Outcome } from '../versions/document.ts';
import { firstRefusal, refuseByRole, refuseReason } from '../versions/document.ts';
import { refuse } from '../versions/refusal.ts';

/**
 * Ends somebody else's check-out, with a reason. What they saved moves to their Desk as a copy set aside, whose base stays; the document
 * is free.
 */
export function lift(state: DocumentState, actor: Actor, { reason }: { reason: string }): Outcome {
  const { custody, number } = state;
  const refusal = firstRefusal(
    refuseByRole(actor, 'lift', 'Lifting a check-out'),
    custody ? null : refuse('conflict', 'not-checked-out', `${number} is not checked out; there is nothing to lift.`),
    custody?.holderId === actor.id ? refuse('conflict', 'held-by-you', `You hold ${number} yourself. Check it in or discard the check-out.`) : null,
    refuseReason(reason, 'Say in a sentence why the check-out is lifted; its holder reads it.'),
  );
  if (refusal) return refusal;
  if (!custody) throw new Error('unreachable: only a held document passes');
  const why = reason.trim();
  const aside: Change[] = custody.workingCopy ? [{ kind: 'setAside', reason: why }] : [];
  return {
    changes: [...aside, { kind: 'closeCustody', how: 'lifted', reason: why }],
    ledger: {
      act: 'lift',
      facts: { holder: custody.holderName, since: custody.since.toISOString(), base: formatLabel(custody.base, state.presentEra), saves: custody.saves, setAside: custody.workingCopy !== null, reason: why },
    },
  };
}
