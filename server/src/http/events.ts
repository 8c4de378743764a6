import type { Response } from 'express';
import type { Context } from '../context.ts';
import { type Happening, hears } from '../events.ts';
import type { Caller } from '../services/access.ts';

/** How often a line is sent that says nothing, so that nobody between takes the connection for dead; in milliseconds. */
const breathEvery = 25_000;
/** A connection ends after so long, in milliseconds; the page connects again, and whoever is not signed in any more does not. */
const longest = 15 * 60_000;
/** Happenings that wait to be looked at for one listener; one who falls further behind is told to look at everything again. */
const mostWaiting = 1000;

/** Tells a listener what happens, as far as they may see it (server-sent events, WHATWG HTML, 9.2), until they leave. */
export async function sendEvents(context: Context, caller: Caller, res: Response): Promise<undefined> {
  res.status(200).set({ 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', Connection: 'keep-alive', 'X-Accel-Buffering': 'no' });
  res.flushHeaders();
  const send = (event: string, data: object): void => { res.write(`event: ${event}\ndata: ${JSON.stringify(data)}\n\n`); };
  send('ready', {});
  let waiting = 0;
  let work = Promise.resolve();
  const hear = (happening: Happening): void => {
    if (waiting >= mostWaiting) return;
    waiting += 1;
    work = work.then(async () => {
      if (waiting >= mostWaiting) send('everything', {});
      else if (await hears(context, caller, happening)) {
        send(happening.kind, happening.kind === 'document' ? { document: happening.documentId, library: happening.libraryId } : happening.kind === 'library' ? { library: happening.libraryId } : {});
      }
    }).catch((error: unknown) => { context.log.error({ err: error }, 'an event could not be told'); }).finally(() => { waiting -= 1; });
  };
  const breath = setInterval(() => res.write(': \n\n'), breathEvery);
  let leave = (): void => undefined;
  let over: NodeJS.Timeout | undefined;
  context.happenings.on('happening', hear);
  await new Promise<void>((resolve) => {
    leave = resolve;
    res.once('close', resolve);
    context.happenings.once('end', resolve);
    over = setTimeout(resolve, longest);
  });
  context.happenings.off('end', leave).off('happening', hear);
  clearInterval(breath);
  clearTimeout(over);
  res.end();
  return undefined;
}
