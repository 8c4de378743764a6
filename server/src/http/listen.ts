import type { Express } from 'express';
import type { Server } from 'node:http';

/**
 * How long one request may take to arrive, in milliseconds: the largest upload over a slow line (256 MB at
 * 100 kbit/s).
 */
const longestRequest = 6 * 3_600_000;
/** How long a connection may be silent, in milliseconds; event streams breathe more often. */
const longestSilence = 120_000;

/** Serves on loopback; calls back once it listens. */
export function listen(app: Express, port: number, onReady: (error?: Error) => void): Server {
  const server = app.listen(port, '127.0.0.1', onReady);
  server.requestTimeout = longestRequest;
  server.timeout = longestSilence;
  return server;
}
