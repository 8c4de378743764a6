import express, { type ErrorRequestHandler, type Response, Router } from 'express';
import type { Context } from '../../context.ts';
import { Refused } from '../../refused.ts';
import { basicSignIn } from '../basicSignIn.ts';
import { copy, makeFolder, move, remove } from './copyMove.ts';
import { lock, unlock } from './locks.ts';
import { propfind } from './propfind.ts';
import { proppatch } from './proppatch.ts';
import { put } from './put.ts';
import { sendFile } from './sendFile.ts';
import { report } from './report.ts';
import { Moved, standing, visit, type Visit } from './visit.ts';
import { davElement, textOf } from './xml.ts';

/** Methods whose body is XML, and what is done for each. */
const withXml: Record<string, (visit: Visit, body: string) => Promise<void>> = {
  PROPFIND: propfind,
  PROPPATCH: proppatch,
  LOCK: lock,
  REPORT: report,
};
const others: Record<string, (visit: Visit) => Promise<void>> = {
  GET: get,
  HEAD: get,
  PUT: put,
  DELETE: remove,
  MKCOL: makeFolder,
  COPY: copy,
  MOVE: move,
  UNLOCK: unlock,
};
const allow = ['OPTIONS', ...Object.keys(withXml), ...Object.keys(others)].join(', ');

/**
 * The libraries as a drive (RFC 4918, classes 1, 2 and 3): each person finds on it the latest version that
 * they see of each document, in folders by subject, and their Desk. What programs do there are the same acts
 * as the page's: a lock is a check-out, a save keeps the working copy, a new file is an arrival.
 */
export function webdav(context: Context): Router {
  const door = Router();
  door.use((_req, res, next) => {
    res.set({
      DAV: '1, 2, 3',
      'MS-Author-Via': 'DAV',
      'Cache-Control': 'private, no-cache',
    });
    next();
  });
  door.options(/.*/, (_req, res) => {
    res.set('Allow', allow).status(200).end();
  });
  door.use(basicSignIn(context));
  const readBody = express.text({ type: () => true, limit: '256kb' });
  door.use((req, res, next) => (withXml[req.method] ? readBody(req, res, next) : next()));
  door.use(async (req, res) => {
    const { caller, method } = req;
    if (!caller) throw new Error('the door was passed without a sign-in');
    const [xml, plain] = [withXml[method], others[method]];
    if (!xml && !plain) {
      res.set('Allow', allow).status(405).end();
      return;
    }
    const one = await visit({ context, caller }, req, res);
    if (xml) await xml(one, typeof req.body === 'string' ? req.body : '');
    else await plain?.(one);
  });
  door.use(refusals);
  return door;
}

async function get(visit: Visit): Promise<void> {
  const { asker, req, res } = visit;
  const place = standing(visit);
  if (place.kind === 'file') await sendFile(asker.context, place.file, req, res);
  else if (place.kind === 'version')
    await sendFile(asker.context, { ...place.version.content, at: place.version.at }, req, res);
  else if (place.kind === 'own' && place.own.file)
    await sendFile(asker.context, { ...place.own.file.content, at: place.own.file.changedAt }, req, res);
  else res.set('Allow', allow).status(405).type('text/plain').send('A folder is listed, not read.\n');
}

/** Refusals whose status, and element, the standard has (RFC 4918, 11.3, 16; RFC 4331, 6; RFC 9110). */
const told: Record<string, { status: number; element: string }> = {
  held: { status: 423, element: 'no-conflicting-lock' },
  'open-in-program': { status: 423, element: 'no-conflicting-lock' },
  locked: { status: 423, element: 'lock-token-submitted' },
  'custody-required': { status: 423, element: 'lock-token-submitted' },
  'no-such-lock': { status: 409, element: 'lock-token-matches-request-uri' },
  'desk-full': { status: 507, element: 'quota-not-exceeded' },
  'library-full': { status: 507, element: 'quota-not-exceeded' },
};
/** Refusals of which only the status is the standard's. */
const ownStatus: Record<string, number> = {
  'no-folder': 409,
  'is-a-folder': 405,
  'body-not-wanted': 415,
  'malformed-if': 400,
  'malformed-request': 400,
  'other-server': 502,
};

/** Says what the standard has words for in its words, with the sentence beside; the rest as everywhere. */
const refusals: ErrorRequestHandler = (error: unknown, req, res, next) => {
  if (error instanceof Moved) {
    // RFC 9110, 15.4.9: the method stays.
    res.redirect(308, error.to);
    return;
  }
  if (!(error instanceof Refused) || res.headersSent) {
    next(error);
    return;
  }
  const { code, reason } = error.refusal;
  const known = told[code];
  const status = known?.status ?? ownStatus[code];
  if (status === undefined) next(error);
  else sendError(res, { status, reason, element: known?.element, path: req.originalUrl });
};

function sendError(
  res: Response,
  {
    status,
    reason,
    element,
    path,
  }: { status: number; reason: string; element?: string | undefined; path: string },
): void {
  const about =
    element?.startsWith('no-') || element === 'lock-token-submitted' ? davElement('href', textOf(path)) : '';
  const sentence = `<reason xmlns="urn:polychron">${textOf(reason)}</reason>`;
  const inside = (element ? davElement(element, about) : '') + sentence;
  res
    .status(status)
    .type('application/xml')
    .send(`<?xml version="1.0" encoding="utf-8"?><D:error xmlns:D="DAV:">${inside}</D:error>`);
}
