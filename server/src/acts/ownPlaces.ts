import { type ContentFacts, isTemporaryName, refuse } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { storeContent } from '../content/contents.ts';
import type { StagedFile } from '../content/staging.ts';
import { deskName } from '../reads/drive.ts';
import { Refused } from '../refused.ts';
import { transact, type Tx } from '../store/database.ts';
import { deskUse, insertDeskFile, updateDeskFile } from '../store/deskFiles.ts';
import { libraryOfCode } from '../store/libraries.ts';
import {
  type DeadProperty,
  deleteOwnLocks,
  deleteOwnPlace,
  findOwnPlace,
  insertOwnPlace,
  keepOwnLock,
  longestPath,
  moveOwnPlace,
  type OwnFile,
  type OwnLock,
  ownLocks,
  type OwnPlace,
  ownPlacesUnder,
  setOwnKind,
  setOwnProperties,
} from '../store/ownPlaces.ts';
import { stagedFile } from './checkIn.ts';
import { type Origin, originOf } from './deskFiles.ts';
import { refuseFullDesk } from './deskRoom.ts';

/** An act on something of one's own on the drive: where, and by which locks the program says it may. */
export interface OwnAct {
  names: readonly string[];
  tokens: ReadonlySet<string>;
}

/** One act at a time on what is a person's own. */
function transactOwn<T>(asker: Asker, act: (tx: Tx) => Promise<T>): Promise<T> {
  const { context, caller } = asker;
  return transact(context.db, async (tx) => {
    await deskUse(context, caller.id, tx);
    return act(tx);
  });
}

const startsWith = (names: readonly string[], beginning: readonly string[]): boolean =>
  names.length >= beginning.length && beginning.every((name, index) => names[index] === name);

/** Whether a lock is about an address: it is there, or deep and above it (RFC 4918, 6.1, 7). */
export const covers = (lock: OwnLock, names: readonly string[]): boolean =>
  startsWith(names, lock.names) && (lock.deep || lock.names.length === names.length);

/** The locks somebody's programs have on an address. */
export async function locksOn(
  { context, caller }: Asker,
  names: readonly string[],
  tx?: Tx,
): Promise<OwnLock[]> {
  const locks = await ownLocks(context, caller.id, context.clock(), tx);
  return locks.filter((lock) => covers(lock, names));
}

/** Refuses what another program of the caller has locked (RFC 4918, 7.4, 7.5). @throws Refused `locked` */
async function requireUnlocked(
  { context, caller }: Asker,
  { names, tokens }: OwnAct,
  { deep, members, tx }: { deep: boolean; members: boolean; tx: Tx },
): Promise<void> {
  const locks = await ownLocks(context, caller.id, context.clock(), tx);
  const isIn = (lock: OwnLock): boolean => deep && startsWith(lock.names, names);
  // Where something comes or goes, what it stands in changes too.
  const above = names.slice(0, -1);
  const groups = [
    locks.filter((lock) => covers(lock, names)),
    ...locks.filter(isIn).map((lock) => [lock]),
    members ? locks.filter((lock) => covers(lock, above)) : [],
  ];
  for (const [first, ...others] of groups)
    if (first && ![first, ...others].some(({ token }) => tokens.has(token))) throw refusedAsLocked(first);
}

const refusedAsLocked = ({ names }: OwnLock): Refused => {
  const reason = `${names.join('/')} is locked by a program of yours. Close it there.`;
  return new Refused(refuse('conflict', 'locked', reason, { path: names }));
};

function requireName(names: readonly string[]): void {
  if (names.join('/').length <= longestPath) return;
  const reason = `The address is longer than ${longestPath} signs. Choose shorter names.`;
  throw new Refused(refuse('invalid', 'path-too-long', reason));
}

/** What a file is, by its name and content, and where it is to be registered. */
async function natureOf(
  { context }: Asker,
  names: readonly string[],
  { size }: Pick<ContentFacts, 'size'>,
  tx: Tx,
): Promise<{
  kind: OwnFile['kind'];
  meantFor: { libraryId: string; fields: Record<string, unknown> } | null;
}> {
  const [code = '', ...rest] = names;
  const name = rest.at(-1) ?? '';
  if (size === 0 || isTemporaryName(name)) return { kind: 'temporary', meantFor: null };
  const library = code === deskName ? null : await libraryOfCode(context, code, tx);
  if (!library) return { kind: 'arrival', meantFor: null };
  const subject = rest.slice(0, -1);
  const title = name.replace(/\.[^.]+$/, '');
  const fields = { title, ...(subject.length > 0 ? { subject } : {}) };
  return { kind: 'arrival', meantFor: { libraryId: library.id, fields } };
}

/**
 * Keeps a file of one's own at an address: an arrival, to be registered once its fields are complete, or one
 * that its program keeps for a while. Returns whether it is new there.
 * @throws Refused `locked`, `desk-full`, `path-too-long`, `set-aside`
 */
export async function performPutOwn(asker: Asker, act: OwnAct, file: StagedFile): Promise<boolean> {
  const { context } = asker;
  requireName(act.names);
  const origin = await originOf(asker, stagedFile(file));
  return transactOwn(asker, async (tx) => {
    const own = await findOwnPlace(context, asker.caller.id, act.names, tx);
    await requireUnlocked(asker, act, { deep: false, members: own === null, tx });
    await storeContent(context, file, file.facts.sha256, tx);
    await keepAt(asker, act.names, { content: file.facts, origin, own, tx });
    return own === null;
  });
}

/** Keeps a content, which is stored, at an address of one's own. */
async function keepAt(
  asker: Asker,
  names: readonly string[],
  { content, origin, own, tx }: { content: ContentFacts; origin: Origin; own: OwnPlace | null; tx: Tx },
): Promise<void> {
  const { context, caller } = asker;
  const present = own?.file;
  if (own && !present) throw isThere();
  if (present) refuseSetAside(present);
  const more = { files: present ? 0 : 1, bytes: content.size - (present?.content.size ?? 0) };
  await refuseFullDesk(asker, more, tx);
  const nature = await natureOf(asker, names, content, tx);
  const createdAt = context.clock();
  if (!present) {
    const kind = nature.kind === 'arrival' && origin.kind ? origin.kind : nature.kind;
    const { documentId, baseId } = origin;
    const kept = { kind, content, documentId, baseId, createdAt, meantFor: nature.meantFor };
    const fileId = await insertDeskFile(context, caller.id, kept, tx);
    await insertOwnPlace(context, caller.id, { names, createdAt, properties: [], fileId }, tx);
    return;
  }
  await updateDeskFile(context, present.id, { content, changedAt: createdAt }, tx);
  const { fileName } = content;
  if (present.kind === 'temporary') await setOwnKind(context, present.id, { ...nature, fileName }, tx);
}

const isThere = (): Refused =>
  new Refused(refuse('conflict', 'is-a-folder', 'Something stands there already.'));

function refuseSetAside({ kind }: OwnFile): void {
  if (kind !== 'setAside') return;
  const reason = 'A copy that was set aside stays as it is. Bring it in, or throw it away, on your Desk.';
  throw new Refused(refuse('conflict', 'set-aside', reason));
}

/** Makes a folder of one's own: nobody else has it until a document stands in it. */
export async function performMakeFolder(asker: Asker, act: OwnAct): Promise<void> {
  const { context, caller } = asker;
  requireName(act.names);
  await transactOwn(asker, async (tx) => {
    await requireUnlocked(asker, act, { deep: false, members: true, tx });
    if (await findOwnPlace(context, caller.id, act.names, tx)) throw isThere();
    await refuseFullDesk(asker, { files: 1, bytes: 0 }, tx);
    const folder = { names: act.names, createdAt: context.clock(), properties: [], fileId: null };
    await insertOwnPlace(context, caller.id, folder, tx);
  });
}

/** Removes something of one's own, with what stands in it; nothing of it where a part is to stay. */
export async function performRemoveOwn(asker: Asker, act: OwnAct): Promise<void> {
  await transactOwn(asker, (tx) => removeAt(asker, act, tx));
}

async function removeAt(asker: Asker, act: OwnAct, tx: Tx): Promise<void> {
  const { context, caller } = asker;
  await requireUnlocked(asker, act, { deep: true, members: true, tx });
  const own = await findOwnPlace(context, caller.id, act.names, tx);
  const inside = await ownPlacesUnder(context, caller.id, act.names, { deep: true, tx });
  const going = [...inside, ...(own ? [own] : [])];
  for (const { file } of going) if (file) refuseSetAside(file);
  for (const place of going) await deleteOwnPlace(context, place, tx);
  await releaseUnder(asker, act.names, tx);
}

/** Locks go with what they are on (RFC 4918, 9.6). */
async function releaseUnder({ context, caller }: Asker, names: readonly string[], tx: Tx): Promise<void> {
  const locks = await ownLocks(context, caller.id, context.clock(), tx);
  const gone = locks.filter((lock) => startsWith(lock.names, names));
  await deleteOwnLocks(
    context,
    gone.map(({ token }) => token),
    tx,
  );
}

/** What is copied to an address of one's own: from there, or a document's content. */
export type CopySource =
  | { kind: 'own'; own: OwnPlace }
  | { kind: 'document'; documentId: string; versionId: string; content: ContentFacts };

/**
 * Copies to an address of one's own, in the place of what stands there. @param deep with what stands in it
 * @returns whether nothing stood there
 */
export async function performCopyToOwn(
  asker: Asker,
  source: CopySource,
  act: OwnAct,
  deep: boolean,
): Promise<boolean> {
  requireName(act.names);
  return transactOwn(asker, async (tx) => {
    const isNew = await makeRoom(asker, act, tx);
    if (source.kind === 'document') {
      const { documentId, versionId, content } = source;
      const origin: Origin = { kind: 'looseCopy', documentId, baseId: versionId };
      await keepAt(asker, act.names, { content, origin, own: null, tx });
      return isNew;
    }
    const from = source.own.names.length;
    const { context, caller } = asker;
    const inside = deep ? await ownPlacesUnder(context, caller.id, source.own.names, { deep: true, tx }) : [];
    for (const each of [source.own, ...inside]) {
      await copyOne(asker, each, [...act.names, ...each.names.slice(from)], tx);
    }
    return isNew;
  });
}

async function copyOne(asker: Asker, from: OwnPlace, names: readonly string[], tx: Tx): Promise<void> {
  const { context, caller } = asker;
  const { file, properties } = from;
  if (file) {
    const origin = { documentId: null, baseId: null };
    await keepAt(asker, names, { content: file.content, origin, own: null, tx });
    const made = await findOwnPlace(context, caller.id, names, tx);
    if (made) await setOwnProperties(context, made.id, properties, tx);
    return;
  }
  const folder = { names, createdAt: context.clock(), properties, fileId: null };
  await insertOwnPlace(context, caller.id, folder, tx);
}

/** Removes what stands at an address to which something comes; returns whether nothing did. */
async function makeRoom(asker: Asker, act: OwnAct, tx: Tx): Promise<boolean> {
  const { context, caller } = asker;
  const there = await findOwnPlace(context, caller.id, act.names, tx);
  if (there) await removeAt(asker, act, tx);
  else await requireUnlocked(asker, act, { deep: false, members: true, tx });
  return there === null;
}

/** Moves something of one's own to another address, in the place of what stands there. */
export async function performMoveOwn(asker: Asker, own: OwnPlace, act: OwnAct): Promise<boolean> {
  const { context, caller } = asker;
  requireName(act.names);
  return transactOwn(asker, async (tx) => {
    await requireUnlocked(asker, { ...act, names: own.names }, { deep: true, members: true, tx });
    const isNew = await makeRoom(asker, act, tx);
    const inside = await ownPlacesUnder(context, caller.id, own.names, { deep: true, tx });
    for (const each of [own, ...inside]) {
      const names = [...act.names, ...each.names.slice(own.names.length)];
      requireName(names);
      await moveOwnPlace(context, each.id, names, tx);
      const { file } = each;
      if (!file || (file.kind !== 'temporary' && file.kind !== 'arrival')) continue;
      const nature = await natureOf(asker, names, file.content, tx);
      await setOwnKind(context, file.id, { ...nature, fileName: names.at(-1) ?? '' }, tx);
    }
    await releaseUnder(asker, own.names, tx);
    return isNew;
  });
}

/** Keeps what programs say of something of one's own (RFC 4918, 9.2). */
export async function performSetProperties(
  asker: Asker,
  { names, tokens }: OwnAct,
  change: (present: readonly DeadProperty[]) => DeadProperty[],
): Promise<void> {
  const { context, caller } = asker;
  await transactOwn(asker, async (tx) => {
    await requireUnlocked(asker, { names, tokens }, { deep: false, members: false, tx });
    const own = await findOwnPlace(context, caller.id, names, tx);
    if (!own) return;
    const properties = change(own.properties);
    if (properties.length > maximumProperties) {
      const reason = `A file keeps at most ${maximumProperties} properties of programs. Remove some.`;
      throw new Refused(refuse('conflict', 'desk-full', reason, { properties: properties.length }));
    }
    const bytes = (some: readonly DeadProperty[]): number => Buffer.byteLength(JSON.stringify(some));
    await refuseFullDesk(asker, { files: 0, bytes: bytes(properties) - bytes(own.properties) }, tx);
    await setOwnProperties(context, own.id, properties, tx);
  });
}

/** What programs keep with one file, and lock at once, at most. */
const maximumProperties = 100;
const maximumLocks = 500;

/**
 * Locks something of one's own for a program; what is not there is an empty file then (RFC 4918, 7.3).
 * Returns whether that was made.
 * @throws Refused `locked` where another lock does not go with it (RFC 4918, 6.2)
 */
export async function performLockOwn(
  asker: Asker,
  lock: OwnLock,
  empty: StagedFile | null,
): Promise<boolean> {
  const { context, caller } = asker;
  requireName(lock.names);
  return transactOwn(asker, async (tx) => {
    const locks = await ownLocks(context, caller.id, context.clock(), tx);
    const other = locks.find(
      (each) => (covers(each, lock.names) || covers(lock, each.names)) && !(each.shared && lock.shared),
    );
    if (other) throw refusedAsLocked(other);
    if (locks.length >= maximumLocks) {
      const reason = `Your programs have ${maximumLocks} locks. Close something there.`;
      throw new Refused(refuse('conflict', 'desk-full', reason, { locks: locks.length }));
    }
    const isNew = empty !== null && !(await findOwnPlace(context, caller.id, lock.names, tx));
    if (isNew) {
      const none = { documentId: null, baseId: null };
      await storeContent(context, empty, empty.facts.sha256, tx);
      await keepAt(asker, lock.names, { content: empty.facts, origin: none, own: null, tx });
    }
    await keepOwnLock(context, caller.id, lock, tx);
    return isNew;
  });
}

/** A program keeps its lock for longer. */
export async function performKeepLock(asker: Asker, lock: OwnLock): Promise<void> {
  await transactOwn(asker, (tx) => keepOwnLock(asker.context, asker.caller.id, lock, tx));
}

/** A program lets a lock of the caller's go. */
export async function performUnlockOwn(asker: Asker, token: string): Promise<void> {
  await transactOwn(asker, (tx) => deleteOwnLocks(asker.context, [token], tx));
}
