import { type Refusal, refuse } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { type ByHand, refuseUnseen } from './byHand.ts';
import { concerned } from './notices.ts';
import { firstRefusal, refuseReason } from './refusals.ts';
import { type Change, type DocumentState, labelIn, type Outcome } from './state.ts';

/** Which published version is withdrawn, and why. */
export interface Withdraw extends ByHand {
  /** The published version right before it, where there is one. */
  previous: Version | null;
}

/**
 * Withdraws a published version. Where it is in force, the published version before it is in force again, as
 * far as its content is there; also while somebody holds the document.
 */
export function withdraw(state: DocumentState, actor: Actor, command: Withdraw, now: Date): Outcome {
  const { version, reason, previous } = command;
  const refusal = firstRefusal(
    refuseByRole(actor, 'withdraw', 'Withdrawing a version'),
    refuseUnseen(state, actor, version),
    refuseUnpublished(state, version),
    refuseReason(reason, 'Say in a sentence why this version is withdrawn; it stays with it.'),
  );
  if (refusal) return refusal;
  const back = state.inForce?.id === version.id && previous && !previous.thinned ? previous : null;
  const governing = state.inForce?.id === version.id ? back : state.inForce;
  const why = `Withdrawn by ${actor.name}: “${reason.trim()}”.`;
  const again: Change[] = back ? [{ kind: 'comeIntoForce', versionId: back.id, at: now }] : [];
  return {
    changes: [{ kind: 'withdraw', versionId: version.id, withdrawn: { at: now, why } }, ...again],
    ledger: {
      act: 'withdraw',
      facts: {
        version: labelIn(state, version),
        reason: reason.trim(),
        inForce: back && labelIn(state, back),
      },
    },
    notices: [
      {
        kind: 'withdrawn',
        personIds: concerned(state, actor, version.authorId),
        about: `withdrawn:${version.id}:${now.getTime()}`,
        facts: {
          by: actor.name,
          label: labelIn(state, version),
          reason: reason.trim(),
          inForce: governing && labelIn(state, governing),
        },
      },
    ],
  };
}

/** Refuses what is about a version that is or was in force, and is about another. */
function refuseUnpublished(state: DocumentState, version: Version): Refusal | null {
  const label = labelIn(state, version);
  if (version.standing === 'scheduled') {
    const reason = `${label} is not in force yet. Take it back instead.`;
    return refuse('conflict', 'scheduled-already', reason);
  }
  if (version.state === 'published') return null;
  const reason =
    version.state === 'withdrawn'
      ? `${label} is withdrawn already.`
      : `${label} was never published; there is nothing to withdraw.`;
  return refuse('conflict', version.state === 'withdrawn' ? 'withdrawn-already' : 'not-published', reason);
}
