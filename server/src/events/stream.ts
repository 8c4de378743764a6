import type { Events } from '@polychron/contract';
import type { Response } from 'express';
import type { Caller } from '../access/caller.ts';
import type { Context } from '../context.ts';
import { isAddressedTo } from './audience.ts';
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

/** By what sign-in somebody listens. */
export interface Listener {
  caller: Caller;
  /** Whether the session or token they came by still holds. */
  isSignedIn: () => Promise<boolean>;
}

/**
 * Sends somebody the events they are addressed by (server-sent events, WHATWG HTML, 9.2), until they leave or
 * are not signed in any more: nothing is sent after that.
 */
export async function sendEvents(
  context: Context,
  { caller, isSignedIn }: Listener,
  res: Response,
): Promise<undefined> {
  res.status(200).set(headers).flushHeaders();
  const send = <K extends keyof Events>(name: K, data: Events[K]): void => {
    res.write(`event: ${name}\ndata: ${JSON.stringify(data)}\n\n`);
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
    else if (await isAddressedTo(context, caller, event)) {
      if (await isSignedIn()) sendEvent(send, event);
      else end();
    }
  };
  const receive = (event: Event): void => {
    if (waiting >= maximumWaiting) return;
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
    else res.write(': \n\n');
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
  res.end();
  return undefined;
}

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
