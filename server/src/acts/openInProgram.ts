import {
  closeInProgram,
  keepForLater,
  keepOpen,
  openInProgram,
  type Outcome,
  type ProgramLock,
} from '@polychron/core';
import type * as contract from '@polychron/contract';
import type { Access, Asker } from '../access/caller.ts';
import type { Context } from '../context.ts';
import { custodyAnswer } from '../reads/custody.ts';
import { Refused } from '../refused.ts';
import { locksOver, type LockOver } from '../store/custody.ts';
import { isDuplicate } from '../store/database.ts';
import { perform } from './perform.ts';

/** A program opens a document: it is checked out, unless the caller holds it. Of two at once one has it. */
export async function performOpenInProgram(
  asker: Asker,
  documentId: string,
  lock: ProgramLock,
): Promise<void> {
  const open = () =>
    perform(asker, documentId, ({ document, actor }, now) => openInProgram(document, actor, lock, now));
  try {
    await open();
  } catch (error) {
    // As for a check-out: another node let a second one through, and the key refused it.
    if (!isDuplicate(error)) throw error;
    await open();
  }
}

/** A program keeps its document open for longer. @throws Refused `no-such-lock`, `held` */
export async function performKeepOpen(asker: Asker, documentId: string, lock: ProgramLock): Promise<void> {
  await perform(asker, documentId, ({ document, actor }, now) => keepOpen(document, actor, lock, now));
}

/**
 * A program closed a document, or its holder takes the lock back.
 * @param token null: whatever lock there is
 */
export async function performCloseInProgram(
  asker: Asker,
  documentId: string,
  token: string | null,
): Promise<void> {
  await perform(asker, documentId, ({ document, actor }, now) => closeInProgram(document, actor, token, now));
}

/** The holder keeps what a program saved for later: nothing is asked. */
export async function performKeepForLater(asker: Asker, documentId: string): Promise<contract.Custody> {
  const { access } = await perform(asker, documentId, ({ document, actor }) => keepForLater(document, actor));
  return custodyAnswer(asker.context, access);
}

/** Closes what programs left open without a word: their locks are over. Returns how many. */
export async function closeLeftOpen(context: Context): Promise<number> {
  let closed = 0;
  for (const over of await locksOver(context, context.clock()))
    if (await closeOne(context, over)) closed += 1;
  return closed;
}

async function closeOne(context: Context, { documentId, token, holder }: LockOver): Promise<boolean> {
  // Their own program's lock ended; it may have been kept longer, or closed, since it was looked for.
  const asker: Asker = { context, caller: { ...holder, systemAdministrator: false } };
  const close = ({ document, actor }: Access, now: Date): Outcome => {
    const lock = document.custody?.lock;
    const isOver = lock?.token === token && lock.until.getTime() <= now.getTime();
    return isOver ? closeInProgram(document, actor, null, now) : { changes: [], ledger: null };
  };
  try {
    await perform(asker, documentId, close);
    return true;
  } catch (error) {
    // Closed libraries, and documents their holder sees no more, keep what they have as it is.
    if (!(error instanceof Refused)) throw error;
    return false;
  }
}
