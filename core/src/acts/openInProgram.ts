import { isRefusal, refuse, type Refusal } from '../document/refusal.ts';
import { labelsToCome } from '../rules/levels.ts';
import type { Actor } from '../rules/roles.ts';
import { type CheckIn, checkIn } from './checkIn.ts';
import { checkOut } from './checkOut.ts';
import { giveBack } from './giveBack.ts';
import { firstRefusal, refuseNotHolding } from './refusals.ts';
import type { Change, Custody, Decision, DocumentState, Notice, Outcome, ProgramLock } from './state.ts';

/** The lock that keeps a document from its holder's other programs now; null where none does. */
export const liveLock = ({ lock }: Pick<Custody, 'lock'>, now: Date): ProgramLock | null =>
  lock && lock.until.getTime() > now.getTime() ? lock : null;

const nothingToTell = (...changes: Decision['changes']): Decision => ({ changes, ledger: null });

/**
 * Opens a document in a program: checks it out, where the actor does not hold it already. What is asked about
 * it waits until it is closed there.
 */
export function openInProgram(state: DocumentState, actor: Actor, lock: ProgramLock, now: Date): Outcome {
  const { custody } = state;
  if (custody?.holderId !== actor.id) {
    const taken = checkOut(state, actor, { reason: null, until: null, door: 'drive' }, now);
    if (taken.refused) return taken;
    return { ...taken, changes: [...taken.changes, { kind: 'setLock', lock }] };
  }
  if (liveLock(custody, now)) return refuseOpen(state);
  return nothingToTell({ kind: 'setLock', lock }, { kind: 'setAsked', at: null });
}

const refuseOpen = ({ number }: DocumentState): Refusal =>
  refuse(
    'conflict',
    'open-in-program',
    `You have ${number} open in another program. Close it there, or take the lock back in the page.`,
  );

/** Refuses what is not about the lock a program has. */
function refuseOtherLock(state: DocumentState, token: string, now: Date): Refusal | null {
  if (state.custody && liveLock(state.custody, now)?.token === token) return null;
  return refuse('conflict', 'no-such-lock', `${state.number} is not locked by this token, or not any more.`);
}

/** A program keeps its document open for longer (RFC 4918, 9.10.2). */
export function keepOpen(state: DocumentState, actor: Actor, lock: ProgramLock, now: Date): Outcome {
  const refusal = firstRefusal(refuseNotHolding(state, actor), refuseOtherLock(state, lock.token, now));
  return refusal ?? nothingToTell({ kind: 'setLock', lock });
}

/**
 * A program closed a document, or its lock is over: the holder is asked what becomes of what it saved. Where
 * it saved nothing and had checked the document out itself, that is given back.
 * @param token null closes whatever lock there is
 */
export function closeInProgram(state: DocumentState, actor: Actor, token: string | null, now: Date): Outcome {
  const { custody } = state;
  const refusal = firstRefusal(
    refuseNotHolding(state, actor),
    token === null ? null : refuseOtherLock(state, token, now),
  );
  if (refusal) return refusal;
  if (!custody?.lock) return nothingToTell();
  if (!custody.workingCopy)
    return custody.door === 'drive' ? giveBack(state, actor) : nothingToTell({ kind: 'setLock', lock: null });
  const closed: Change = { kind: 'setLock', lock: null };
  const checkedIn = checkInByItself(state, actor, now);
  if (checkedIn) return { ...checkedIn, changes: [closed, ...checkedIn.changes] };
  const changes: Change[] = [closed, { kind: 'setAsked', at: now }];
  return { changes, ledger: null, notices: [noticeToFinish(state, custody)] };
}

/**
 * The draft that what was saved becomes by itself, where the rules have it so; null where they have not, or
 * where the holder is to be asked something. Who had checked the document out before goes on holding it.
 */
function checkInByItself(state: DocumentState, actor: Actor, now: Date): Decision | null {
  if (state.rules.closedInProgram !== 'checksIn') return null;
  const command: CheckIn = {
    level: 'minor',
    comment: 'Saved in its own program',
    keepCheckedOut: state.custody?.door === 'web',
    content: null,
    confirm: [],
    keepFileName: true,
  };
  const outcome = checkIn(state, actor, command, now);
  return isRefusal(outcome) ? null : outcome;
}

function noticeToFinish(state: DocumentState, { saves, holderId, since }: Custody): Notice {
  const { minor, major } = labelsToCome(state.rules, state.highest, state.presentEra);
  return {
    kind: 'toFinish',
    personIds: [holderId],
    // Opened and closed again with nothing saved, it is no news.
    about: `toFinish:${state.id}:${since.getTime()}:${saves}`,
    facts: { saves: String(saves), minor, major },
  };
}

/** The holder keeps what a program saved, to go on later: nothing is asked until it is opened again. */
export function keepForLater(state: DocumentState, actor: Actor): Outcome {
  return refuseNotHolding(state, actor) ?? nothingToTell({ kind: 'setAsked', at: null });
}
