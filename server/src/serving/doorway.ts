import type { IncomingMessage, RequestListener, Server, ServerResponse } from 'node:http';

/** How long reading, and what has not come whole, may go on once the server ends, in milliseconds. */
const longestGoodbye = 10_000;
/** How long what came whole and changes something may go on: it is answered, kept or not. */
const longestWork = 120_000;

/** What the server cannot answer yet. */
interface Beginning {
  stage: 'beginning';
  /** What it does meanwhile. */
  doing: string;
}

/** Stands before the application: answers alone while it begins, and sees to it that every request ends. */
export class Doorway {
  private at: Beginning | { stage: 'open'; app: RequestListener } = { stage: 'beginning', doing: 'Starting' };
  private isEnding = false;
  private readonly under = new Set<{ req: IncomingMessage; res: ServerResponse }>();

  /** Says what is done before requests are answered. */
  tell(doing: string): void {
    if (this.at.stage === 'beginning') this.at = { stage: 'beginning', doing };
  }

  /** From now on the application answers. */
  open(app: RequestListener): void {
    this.at = { stage: 'open', app };
  }

  readonly handle: RequestListener = (req, res) => {
    const one = { req, res };
    this.under.add(one);
    res.once('close', () => this.under.delete(one));
    if (this.isEnding) res.setHeader('Connection', 'close');
    if (this.at.stage === 'beginning') answer(req, res, this.at.doing);
    else if (this.isEnding && isHealth(req)) answer(req, res, 'Ending');
    else this.at.app(req, res);
  };

  /**
   * Ends servers: they are not ready any more, take no new connection, and close each one with its last
   * answer. What came whole and changes something is answered, however long the rest may take.
   * @param endStreams ends answers that have no end of their own
   */
  async close(servers: readonly Server[], endStreams: () => void): Promise<void> {
    this.isEnding = true;
    for (const { res } of this.under) if (!res.headersSent) res.setHeader('Connection', 'close');
    const closed = servers.map(
      (server) =>
        new Promise((resolve) => {
          server.close(resolve);
        }),
    );
    endStreams();
    for (const server of servers) server.closeIdleConnections();
    const timers = [
      setTimeout(() => this.cut(({ req }) => isReading(req) || !req.complete), longestGoodbye),
      setTimeout(() => this.cut(() => true), longestWork),
      // A connection may have become idle after its last answer.
      setInterval(() => {
        for (const server of servers) server.closeIdleConnections();
      }, 100),
    ];
    await Promise.all(closed);
    for (const timer of timers) clearTimeout(timer);
  }

  private cut(which: (one: { req: IncomingMessage }) => boolean): void {
    for (const one of this.under) if (which(one)) one.req.socket.destroy();
  }
}

const isHealth = ({ url = '' }: IncomingMessage): boolean => url.split('?')[0] === '/healthz';
const isReading = ({ method = '' }: IncomingMessage): boolean =>
  ['GET', 'HEAD', 'OPTIONS', 'PROPFIND'].includes(method);

/** Says that the server is not ready, and why, as problem details (RFC 9457). */
function answer(req: IncomingMessage, res: ServerResponse, doing: string): void {
  req.resume();
  res.statusCode = 503;
  res.setHeader('Retry-After', '3');
  if (isHealth(req)) {
    res.setHeader('Content-Type', 'application/json');
    res.end(JSON.stringify({ ready: false, doing }));
    return;
  }
  res.setHeader('Content-Type', 'application/problem+json');
  const detail = `Polychron is not ready yet: ${doing}. Try again in a moment.`;
  const code = 'not-ready';
  res.end(
    JSON.stringify({ type: `/api/docs#${code}`, title: 'For a moment not', status: 503, detail, code }),
  );
}
