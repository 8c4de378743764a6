import { liveLock, refuse } from '@polychron/core';
import { randomUUID } from 'node:crypto';
import { performCloseInProgram, performKeepOpen, performOpenInProgram } from '../../acts/openInProgram.ts';
import { performKeepLock, performLockOwn, performUnlockOwn, locksOn } from '../../acts/ownPlaces.ts';
import { stageFile } from '../../content/staging.ts';
import type { DriveFile } from '../../reads/drive.ts';
import { Refused } from '../../refused.ts';
import type { OwnLock } from '../../store/ownPlaces.ts';
import { Readable } from 'node:stream';
import { activeLock, ownLockTold, pathOf } from './properties.ts';
import { badRequest, forbidden, requireFolder, type Visit } from './visit.ts';
import { davElement, davIn, isDav, notUnderstood, readXml, writtenToKeep } from './xml.ts';

/** How long a lock lasts that names no time, and at most, in seconds: a program asks again in time. */
const usualSeconds = 30 * 60;
const mostSeconds = 60 * 60;

/** For how long a lock is asked (RFC 4918, 10.7), within what is given, in seconds. */
function secondsAsked(header: string | undefined): number {
  for (const one of (header ?? '').split(',')) {
    if (/^\s*infinite\s*$/i.test(one)) return mostSeconds;
    const seconds = Number(/^\s*Second-(\d+)\s*$/i.exec(one)?.[1] ?? Number.NaN);
    if (seconds > 0) return Math.min(seconds, mostSeconds);
  }
  return usualSeconds;
}

interface LockAsked {
  shared: boolean;
  owner: string;
}

function readLock(body: string): LockAsked {
  const root = readXml(body);
  const scope = isDav(root, 'lockinfo') ? davIn(root, 'lockscope') : undefined;
  const type = davIn(root, 'locktype');
  if (!scope || !type || !davIn(type, 'write'))
    throw notUnderstood('The body is no DAV:lockinfo of a write lock.');
  const owner = davIn(root, 'owner');
  const shared = davIn(scope, 'shared') !== undefined;
  if (!shared && !davIn(scope, 'exclusive')) throw notUnderstood('A lock is exclusive or shared.');
  return { shared, owner: owner ? writtenToKeep(owner) : '' };
}

/** LOCK (RFC 4918, 9.10): of a document a check-out; of something of one's own, for its programs. */
export async function lock(visit: Visit, body: string): Promise<void> {
  const { asker, req } = visit;
  const now = asker.context.clock();
  const until = new Date(now.getTime() + secondsAsked(req.get('timeout')) * 1000);
  if (body.trim() === '') await refresh(visit, until);
  else await take(visit, { ...readLock(body), until, deep: isDeep(req.get('depth')) });
}

function isDeep(depth = 'infinity'): boolean {
  if (depth === '0') return false;
  if (depth.toLowerCase() === 'infinity') return true;
  throw badRequest('bad-depth', 'Depth of a lock is 0 or infinity (RFC 4918, 9.10.3).');
}

function answer(
  { res }: Visit,
  told: string,
  { status = 200, token }: { status?: number; token?: string },
): void {
  if (token !== undefined) res.set('Lock-Token', `<${token}>`);
  const inside = davElement('lockdiscovery', told);
  res
    .status(status)
    .type('application/xml')
    .send(`<?xml version="1.0" encoding="utf-8"?><D:prop xmlns:D="DAV:">${inside}</D:prop>`);
}

async function take(visit: Visit, asked: LockAsked & { until: Date; deep: boolean }): Promise<void> {
  const { asker, place, names } = visit;
  const { context } = asker;
  const token = `urn:uuid:${randomUUID()}`;
  const { shared, owner, until, deep } = asked;
  if (place?.kind === 'file') {
    if (shared)
      throw forbidden('lock-shared', 'A document is locked by one at a time. Ask for an exclusive lock.');
    await performOpenInProgram(asker, place.file.documentId, { token, owner, until });
    const told = { shared, deep: false, owner, until, token, root: pathOf(place), now: context.clock() };
    answer(visit, activeLock(told), { token });
    return;
  }
  if (place && place.kind !== 'own')
    throw forbidden('not-a-place', 'It is nobody’s to lock. Lock a document, or what is your own.');
  if (!place) await requireFolder(visit, names);
  const own: OwnLock = { token, names, shared, owner, until, deep };
  const empty = place
    ? null
    : await stageFile(context, Readable.from([]), names.at(-1) ?? '', { empty: true });
  const isNew = await performLockOwn(asker, own, empty).finally(() => empty?.remove());
  answer(visit, ownLockTold(own, context.clock()), { token, status: isNew ? 201 : 200 });
}

/** Keeps a lock for longer: the one that the If header names. */
async function refresh(visit: Visit, until: Date): Promise<void> {
  const { asker, place, names, tokens } = visit;
  const now = asker.context.clock();
  if (place?.kind === 'file') {
    const { custody, documentId } = place.file;
    const present = custody && liveLock(custody, now);
    if (!present || !tokens.has(present.token)) throw noSuchLock('stale');
    const kept = { ...present, until };
    await performKeepOpen(asker, documentId, kept);
    answer(visit, activeLock({ ...kept, shared: false, deep: false, root: pathOf(place), now }), {});
    return;
  }
  const own = (await locksOn(asker, names)).find(({ token }) => tokens.has(token));
  if (!own) throw noSuchLock('stale');
  const kept = { ...own, until };
  await performKeepLock(asker, kept);
  answer(visit, ownLockTold(kept, now), {});
}

const noSuchLock = (kind: 'stale' | 'conflict'): Refused =>
  new Refused(
    refuse(
      kind,
      kind === 'stale' ? 'precondition-failed' : 'no-such-lock',
      'It is not locked by this token, or not any more.',
    ),
  );

/** UNLOCK (RFC 4918, 9.11): of a document, its holder is asked what becomes of what was saved. */
export async function unlock(visit: Visit): Promise<void> {
  const { asker, place, names, req, res } = visit;
  // A Coded-URL (10.5); some programs leave its brackets out.
  const token = /^\s*<?([^<>\s]+)>?\s*$/.exec(req.get('lock-token') ?? '')?.[1];
  if (token === undefined) throw badRequest('malformed-request', 'The Lock-Token header names no token.');
  if (place?.kind === 'file') await unlockDocument(visit, place, token);
  else {
    const own = (await locksOn(asker, names)).find((one) => one.token === token);
    if (!own) throw noSuchLock('conflict');
    await performUnlockOwn(asker, token);
  }
  res.status(204).end();
}

async function unlockDocument({ asker }: Visit, { file }: DriveFile, token: string): Promise<void> {
  const { custody, documentId } = file;
  if (custody?.holderId !== asker.caller.id || custody.lock?.token !== token) throw noSuchLock('conflict');
  await performCloseInProgram(asker, documentId, token);
}
