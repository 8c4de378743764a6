import type { Context } from '../context.ts';
import { senderOf } from '../standins/mail.ts';
import { type Leaving, markSent, markUnsent, messagesLeaving } from '../store/mail.ts';

/** Messages that leave in one turn. */
const atOnce = 50;
/** A message that could not leave waits a minute, then twice as long each time, at most so many minutes. */
const longestWait = 360;
/** After so many tries it stays. */
const mostTries = 20;

/**
 * Sends messages by SMTP that are to leave by now. What cannot leave is tried again later; what is refused
 * for good stays, with what was said. A message may leave twice where the server ends between the two: both
 * have one Message-ID. Returns how many left.
 */
export async function sendMail(context: Context): Promise<number> {
  const { transport } = context.mail;
  if (!transport) return 0;
  const from = senderOf(context.mail).address;
  let sent = 0;
  for (const message of await messagesLeaving(context, context.clock(), atOnce)) {
    try {
      await transport.sendMail({ envelope: { from, to: [message.address] }, raw: message.message });
      await markSent(context, message.id, context.clock());
      sent += 1;
    } catch (error) {
      await markUnsent(context, message.id, keptBack(error, message, context.clock()));
    }
  }
  return sent;
}

function keptBack(error: unknown, { tries }: Leaving, now: Date): { problem: string; nextTry: Date | null } {
  const { message = String(error), responseCode } = error as { message?: string; responseCode?: number };
  const problem = message.replace(/\s+/g, ' ').slice(0, 500);
  // 5yz: the same would be refused again (RFC 5321, section 4.2.1).
  const isForGood = (responseCode !== undefined && responseCode >= 500) || tries + 1 >= mostTries;
  if (isForGood) return { problem, nextTry: null };
  const minutes = Math.min(2 ** tries, longestWait);
  return { problem, nextTry: new Date(now.getTime() + minutes * 60_000) };
}
