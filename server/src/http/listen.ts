import { createServer, type RequestListener, type Server } from 'node:http';
import { createServer as createSecureServer } from 'node:https';
import type { Certificate } from './certificate.ts';

/**
 * How long one request may take to arrive, in milliseconds: the largest upload over a slow line (2 GB at
 * 1 Mbit/s).
 */
const longestRequest = 6 * 3_600_000;
/** How long a connection may be silent, in milliseconds; event streams breathe more often. */
const longestSilence = 120_000;
/** How long it may be silent while what came whole is worked on, in milliseconds: an upload is laid down. */
const longestWork = 30 * 60_000;

/**
 * How long a connection on which nothing is asked stays open, in milliseconds. One that is closed while a
 * client sends on it loses the request: longer than clients keep theirs.
 */
const idleFor = 75_000;

/** Serves on loopback; calls back once it listens. */
export function listen(handle: RequestListener, port: number, onReady: (error?: Error) => void): Server {
  const server = createServer(handle);
  server.once('error', onReady);
  server.listen(port, '127.0.0.1', () => onReady());
  return patient(server);
}

/** Serves over TLS 1.2 or later; calls back once it listens. */
export function listenSecurely(
  handle: RequestListener,
  { cert, key }: Certificate,
  { port, host }: { port: number; host: string },
  onReady: (error?: Error) => void,
): Server {
  const server = createSecureServer({ cert, key, minVersion: 'TLSv1.2' }, handle);
  server.once('error', onReady);
  server.listen(port, host, () => onReady());
  return patient(server);
}

function patient<S extends Server>(server: S): S {
  server.requestTimeout = longestRequest;
  server.timeout = longestSilence;
  server.on('request', (req, res) => {
    if (req.method === 'GET' || req.method === 'HEAD') return;
    req.once('end', () => req.socket.setTimeout(longestWork));
    res.once('finish', () => req.socket.setTimeout(longestSilence));
  });
  server.keepAliveTimeout = idleFor;
  return server;
}
