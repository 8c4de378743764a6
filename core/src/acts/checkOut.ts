import type { Version } from '../document/version.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { firstRefusal, refuseComment, refusePast, refuseUnfree } from './refusals.ts';
import { type Door, type DocumentState, labelIn, type Outcome } from './state.ts';

const dayInMilliseconds = 86_400_000;

/** Until when a check-out lasts that names no end: the library's days after `now`, or null for no end. */
export function defaultUntil(custodyDays: number | null, now: Date): Date | null {
  return custodyDays === null ? null : new Date(now.getTime() + custodyDays * dayInMilliseconds);
}

/** Why and until when a document is wanted; null leaves both to the library's rules. */
export interface CheckOut {
  reason: string | null;
  until: Date | null;
  door?: Door | undefined;
  /** What is worked on, where the latest version was withdrawn; left out: what is in force. */
  base?: 'inForce' | 'latest' | undefined;
}

/**
 * The version that a check-out is based on: the latest; where that was withdrawn, what is in force instead,
 * unless the withdrawn one is asked for.
 */
export const baseToCheckOut = (
  { latest, inForce }: Pick<DocumentState, 'latest' | 'inForce'>,
  asked?: CheckOut['base'],
): Version => (latest.state === 'withdrawn' && inForce && asked !== 'latest' ? inForce : latest);

/** Takes a document into custody: `baseToCheckOut` says on what the working copy is based. */
export function checkOut(state: DocumentState, actor: Actor, command: CheckOut, now: Date): Outcome {
  const base = baseToCheckOut(state, command.base);
  const { reason, door = 'web' } = command;
  const refusal = firstRefusal(
    refuseByRole(actor, 'checkOut', 'Checking out'),
    refuseUnfree(state, actor),
    refuseComment(reason ?? '', false),
    refusePast(command.until, now),
  );
  if (refusal) return refusal;
  const until = command.until ?? defaultUntil(state.rules.custodyDays, now);
  const holder = { holderId: actor.id, holderName: actor.name };
  return {
    changes: [{ kind: 'openCustody', ...holder, since: now, until, reason, door, baseId: base.id }],
    ledger: {
      act: 'checkOut',
      facts: { base: labelIn(state, base), until: until?.toISOString() ?? null, reason, door },
    },
  };
}
