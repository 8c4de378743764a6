import { type Refusal, refuse } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { type ByHand, refuseUnseen } from './byHand.ts';
import { supersedeBefore } from './publication.ts';
import { firstRefusal, refuseComment, refuseMoment, refuseWhileHeld } from './refusals.ts';
import { type DocumentState, labelIn, type Outcome } from './state.ts';

/** When a scheduled version is to come into force; null: at once. */
export interface Reschedule {
  version: Version;
  inForceFrom: Date | null;
}

/** Lets a scheduled version come into force at another moment, or at once. */
export function reschedule(
  state: DocumentState,
  actor: Actor,
  { version, inForceFrom }: Reschedule,
  now: Date,
): Outcome {
  const refusal = firstRefusal(refuseScheduling(state, actor, version), refuseMoment(inForceFrom, now));
  if (refusal) return refusal;
  const label = labelIn(state, version);
  if (inForceFrom !== null) {
    return {
      changes: [{ kind: 'schedule', versionId: version.id, inForceFrom }],
      ledger: { act: 'reschedule', facts: { version: label, inForceFrom: inForceFrom.toISOString() } },
    };
  }
  return {
    changes: [
      ...supersedeBefore(state, now, version.sequence),
      { kind: 'comeIntoForce', versionId: version.id, at: now },
    ],
    ledger: { act: 'reschedule', facts: { version: label, inForceFrom: now.toISOString() } },
  };
}

/** Takes a scheduled version back before its moment: it is withdrawn, and what is in force stays so. */
export function takeBack(
  state: DocumentState,
  actor: Actor,
  { version, reason }: ByHand,
  now: Date,
): Outcome {
  const refusal = firstRefusal(refuseScheduling(state, actor, version), refuseComment(reason, false));
  if (refusal) return refusal;
  const words = reason.trim() === '' ? '' : `: “${reason.trim()}”`;
  const why = `Taken back by ${actor.name} before it came into force${words}.`;
  return {
    changes: [{ kind: 'withdraw', versionId: version.id, withdrawn: { at: now, why } }],
    ledger: { act: 'takeBack', facts: { version: labelIn(state, version), reason: reason.trim() } },
  };
}

/** Why nothing could be done about a moment to come, where no version is named; null where one waits. */
export function refuseWithoutSchedule(state: DocumentState, actor: Actor): Refusal | null {
  const byRole = refuseRole(state, actor);
  if (byRole || state.scheduled.length > 0) return byRole;
  const reason = `Nothing of ${state.number} waits for a moment to come into force.`;
  return refuse('conflict', 'not-scheduled', reason);
}

const refuseRole = ({ ownerId }: DocumentState, actor: Actor): Refusal | null =>
  ownerId === actor.id && actor.roles.size > 0
    ? null
    : refuseByRole(actor, 'publish', 'Changing when a version comes into force');

function refuseScheduling(state: DocumentState, actor: Actor, version: Version): Refusal | null {
  return firstRefusal(
    refuseRole(state, actor),
    refuseUnseen(state, actor, version),
    refuseUnscheduled(state, version),
    state.custody?.holderId === actor.id ? null : refuseWhileHeld(state, actor),
  );
}

function refuseUnscheduled(state: DocumentState, version: Version): Refusal | null {
  if (version.standing === 'scheduled') return null;
  const label = labelIn(state, version);
  return refuse('conflict', 'not-scheduled', `${label} does not wait for a moment to come into force.`);
}
