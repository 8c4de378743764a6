import type { Events } from '@polychron/contract';
import { refuse } from '@polychron/core';
import type { Response } from 'express';
import type { Caller } from '../access/caller.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { isAddressedTo, once } from './audience.ts';
import type { Event } from './bus.ts';

/**
 * How often a line is sent that says nothing, so that nobody between takes the connection for dead; in
 * milliseconds.
 */
const breathEvery = 15_000;
/**
 * A connection ends after so long, in milliseconds; the page connects again, and whoever is not signed in any
 * more does not.
 */
const longest = 15 * 60_000;
/**
 * Events that wait to be looked at for one subscriber; one who falls further behind is told to read
 * everything again.
 */
const maximumWaiting = 1000;

const headers = {
  'Content-Type': 'text/event-stream',
  'Cache-Control': 'no-store',
  Connection: 'keep-alive',
  'X-Accel-Buffering': 'no',
};

/**
 * What may wait to be read by one who listens, in bytes. Who has more waiting does not read: they are told to
 * read everything again once they do, and let go where they do not within this time, in milliseconds.
 */
const mostUnread = 64 << 10;
const patience = 60_000;

/** By what sign-in somebody listens. */
export interface Listener {
  caller: Caller;
  /** Tells one sign-in from another. */
  signIn: string;
  /** Whether the session or token they came by still holds. */
  isSignedIn: () => Promise<boolean>;
}

/**
 * Sends somebody the events they are addressed by (server-sent events, WHATWG HTML, 9.2), until they leave or
 * are not signed in any more: nothing is sent after that.
 */
export async function sendEvents(
  context: Context,
  { caller, signIn, isSignedIn }: Listener,
  res: Response,
): Promise<undefined> {
  const leavePlace = context.events.admit(caller.id, signIn);
  if (!leavePlace) throw tooManyStreams();
  res.status(200).set(headers).flushHeaders();
  /** Since when so much waits to be read that nothing more is written. */
  let unread: NodeJS.Timeout | null = null;
  const write = (text: string): void => {
    if (unread) return;
    res.write(text);
    if (res.writableLength <= mostUnread) return;
    unread = setTimeout(() => res.destroy(), patience);
    res.once('drain', () => {
      if (unread) clearTimeout(unread);
      unread = null;
      send('everything', {});
    });
  };
  const send = <K extends keyof Events>(name: K, data: Events[K]): void => {
    write(`event: ${name}\ndata: ${JSON.stringify(data)}\n\n`);
  };
  send('ready', {});
  let waiting = 0;
  /** An event could not be looked up, the database being away: all is to be read again once it is back. */
  let missed = false;
  let left = false;
  let end = (): void => undefined;
  let work = Promise.resolve();
  const deliver = async (event: Event): Promise<void> => {
    if (left) return;
    if (waiting >= maximumWaiting) send('everything', {});
    else if (await once(event, `person ${caller.id}`, () => isAddressedTo(context, caller, event))) {
      if (await once(event, `signIn ${signIn}`, isSignedIn)) sendEvent(send, event);
      else end();
    }
  };
  const receive = (event: Event): void => {
    // Who does not read is told to read everything again when they do.
    if (unread || waiting >= maximumWaiting) return;
    waiting += 1;
    work = work
      .then(() => deliver(event))
      .catch((error: unknown) => {
        // What was looked up for somebody who has left, perhaps while the server ends, is missed by nobody.
        if (left) return;
        missed = true;
        context.log.warn({ err: error }, 'an event could not be sent');
      })
      .finally(() => {
        waiting -= 1;
      });
  };
  const breathe = async (): Promise<void> => {
    if (!(await isSignedIn())) {
      end();
      return;
    }
    if (missed) send('everything', {});
    else write(': \n\n');
    missed = false;
  };
  const breath = setInterval(() => {
    breathe().catch((error: unknown) => {
      context.log.warn({ err: error }, 'a sign-in could not be looked up');
    });
  }, breathEvery);
  let over: NodeJS.Timeout | undefined;
  let unsubscribe = (): void => undefined;
  await new Promise<void>((resolve) => {
    end = resolve;
    unsubscribe = context.events.subscribe(receive, resolve);
    res.once('close', resolve);
    over = setTimeout(resolve, longest);
  });
  left = true;
  unsubscribe();
  clearInterval(breath);
  clearTimeout(over);
  if (unread) clearTimeout(unread);
  leavePlace();
  res.end();
  return undefined;
}

const tooManyStreams = (): Refused => {
  const reason = 'You listen from too many pages at once. Close some of them.';
  return new Refused(refuse('conflict', 'too-many-streams', reason));
};

function sendEvent(send: <K extends keyof Events>(name: K, data: Events[K]) => void, event: Event): void {
  switch (event.kind) {
    case 'document':
      send('document', { document: event.documentId, library: event.libraryId });
      return;
    case 'library':
      send('library', { library: event.libraryId });
      return;
    case 'notices':
      send('notices', {});
      return;
    case 'signIns':
      return;
  }
}
