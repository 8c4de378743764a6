import { type Refusal, refuse } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { type ByHand, refuseThinned, refuseUnseen } from './byHand.ts';
import { concerned } from './notices.ts';
import { firstRefusal, refuseInApproval, refuseReason, refuseWhileHeld } from './refusals.ts';
import { type Change, type DocumentState, labelIn, type Outcome } from './state.ts';

/** Which earlier version is put back in force, and why. */
export interface Reinstate extends ByHand {
  /** Published versions after it that are not withdrawn, in force and scheduled ones among them. */
  later: readonly Version[];
}

/**
 * Puts an earlier published version back in force under its own number. Those after it are withdrawn; none is
 * lost, and the next number is above them all.
 */
export function reinstate(state: DocumentState, actor: Actor, command: Reinstate, now: Date): Outcome {
  const { version, reason, later } = command;
  const refusal = firstRefusal(
    refuseByRole(actor, 'reinstate', 'Reinstating a version'),
    refuseUnseen(state, actor, version),
    refuseStanding(state, version),
    refuseThinned(state, version),
    state.custody?.holderId === actor.id ? null : refuseWhileHeld(state, actor),
    refuseInApproval(state),
    refuseReason(reason, 'Say in a sentence why this version is in force again.'),
  );
  if (refusal) return refusal;
  const label = labelIn(state, version);
  const why = `Withdrawn by ${actor.name} for ${label}: “${reason.trim()}”.`;
  const withdrawn = later.map((one): Change => ({
    kind: 'withdraw',
    versionId: one.id,
    withdrawn: { at: now, why },
  }));
  const isLater = later.some(({ id }) => id === state.inForce?.id);
  const superseded: Change[] =
    state.inForce && !isLater ? [{ kind: 'supersede', versionId: state.inForce.id, at: now }] : [];
  return {
    changes: [...withdrawn, ...superseded, { kind: 'reinstate', versionId: version.id, at: now }],
    ledger: {
      act: 'reinstate',
      facts: {
        version: label,
        reason: reason.trim(),
        withdrawn: later.map((one) => labelIn(state, one)),
      },
    },
    notices: [
      {
        kind: 'reinstated',
        personIds: concerned(state, actor, version.authorId, ...later.map(({ authorId }) => authorId)),
        about: `reinstated:${version.id}:${now.getTime()}`,
        facts: {
          by: actor.name,
          label,
          reason: reason.trim(),
          withdrawn: later.map((one) => labelIn(state, one)).join(', '),
        },
      },
    ],
  };
}

/** Refuses a version that was never in force, is so now, or comes into force by itself. */
function refuseStanding(state: DocumentState, version: Version): Refusal | null {
  const label = labelIn(state, version);
  if (version.state !== 'published' && version.state !== 'withdrawn') {
    const reason = `${label} was never published. Publish it, or restore it into a new version.`;
    return refuse('conflict', 'not-published', reason);
  }
  if (version.standing === 'inForce') {
    return refuse('conflict', 'in-force-already', `${label} is in force.`);
  }
  if (version.standing !== 'scheduled') return null;
  const reason = `${label} comes into force by itself. Let it come into force at once instead.`;
  return refuse('conflict', 'scheduled-already', reason);
}
