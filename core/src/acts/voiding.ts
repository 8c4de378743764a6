import { type Refusal, refuse } from '../document/refusal.ts';
import { dateWords } from '../document/whenWords.ts';
import { type Actor, may, refuseByRole } from '../rules/roles.ts';
import { firstRefusal, refuseInApproval, refuseReason, refuseWhileHeld } from './refusals.ts';
import type { DocumentState, Outcome } from './state.ts';

/** How a document came here, and what became of it since. */
export interface Registered {
  byId: string;
  at: Date;
  /** Whether a version of it ever was published. */
  published: boolean;
  /** Whether anybody else ever did anything with it. */
  touched: boolean;
}

/** Why a document is voided; its registration where whoever registered it takes that back. */
export interface Voiding {
  reason: string;
  registration: Registered | null;
}

/** For how long whoever registered a document may take that back, in milliseconds. */
export const takenBackWithin = 3_600_000;

/** Refuses who may not void the document. */
export function refuseVoiding(
  state: DocumentState,
  actor: Actor,
  registration: Registered | null,
  now: Date,
): Refusal | null {
  return firstRefusal(
    refuseVoided(state),
    may(actor.roles, 'void') ? null : refuseTakingBack(state, actor, registration, now),
    refuseWhileHeld(state, actor),
    refuseInApproval(state),
  );
}

/**
 * Voids a document that was registered by mistake (docs/rules.md, Void): lists, counts and searches leave it
 * out, its number is never used again, nothing can be done with it but lifting that.
 */
export function voidDocument(state: DocumentState, actor: Actor, command: Voiding, now: Date): Outcome {
  const reason = command.reason.trim();
  const refusal = firstRefusal(
    refuseVoiding(state, actor, command.registration, now),
    refuseReason(reason, 'Say in a sentence why the document is voided; it stays with it.'),
  );
  if (refusal) return refusal;
  return {
    changes: [{ kind: 'setVoided', voided: { at: now, byId: actor.id, reason } }],
    ledger: { act: 'void', facts: { number: state.number, reason } },
  };
}

/** Lets a voided document stand again, as it was. */
export function unvoidDocument(state: DocumentState, actor: Actor, command: { reason: string }): Outcome {
  const reason = command.reason.trim();
  const refusal = firstRefusal(
    refuseUnvoiding(state, actor),
    refuseReason(reason, 'Say in a sentence why the document stands again.'),
  );
  if (refusal) return refusal;
  return {
    changes: [{ kind: 'setVoided', voided: null }],
    ledger: { act: 'unvoid', facts: { number: state.number, reason } },
  };
}

/** Refuses who may not let a voided document stand again, and where there is none. */
export const refuseUnvoiding = (state: DocumentState, actor: Actor): Refusal | null =>
  firstRefusal(
    refuseByRole(actor, 'void', 'Lifting a void'),
    state.voided
      ? null
      : refuse('conflict', 'not-voided', `${state.number} is not void; nothing is to be lifted.`),
  );

/** Refuses whatever is done with a voided document. */
export function refuseVoided({ number, voided }: Pick<DocumentState, 'number' | 'voided'>): Refusal | null {
  if (!voided) return null;
  const at = voided.at.toISOString();
  const reason = `${number} was voided on ${dateWords(at)}: “${voided.reason}”. Nothing can be done with it until a controller lifts that.`;
  return refuse('conflict', 'voided', reason, { at });
}

/** Whoever registered a document may take that back for a while, as long as nobody built on it. */
function refuseTakingBack(
  { number }: DocumentState,
  actor: Actor,
  registration: Registered | null,
  now: Date,
): Refusal | null {
  if (registration?.byId !== actor.id) return refuseByRole(actor, 'void', 'Voiding a document');
  const { at, published, touched } = registration;
  const over = (why: string): Refusal =>
    refuse('conflict', 'voiding-over', `${why} Ask a controller to void ${number}.`);
  if (now.getTime() - at.getTime() > takenBackWithin) return over('It was registered more than an hour ago.');
  if (published) return over('It was published.');
  return touched ? over('Somebody else did something with it.') : null;
}
