import { createHash, randomUUID } from 'node:crypto';
import { openAsBlob } from 'node:fs';
import { lstat, readFile, rename, writeFile } from 'node:fs/promises';
import { basename, dirname, join, resolve } from 'node:path';
import { z } from 'zod';
import { Told } from './client.ts';
import { ifMissing } from './signIn.ts';

/** A file of a folder that is the working copy of a document one holds. */
const Held = z.object({
  server: z.string(),
  documentId: z.string(),
  number: z.string(),
  base: z.string(),
  /** SHA-256 of what the server had last, from here or to here. */
  sha256: z.string(),
});
export type Held = z.infer<typeof Held>;
/** By file name; a path could lead out of the folder. */
const Notes = z.record(
  z.string().refine((name) => name === basename(name) && !name.includes('\\') && !/^\.*$/.test(name)),
  Held,
);
type Notes = z.infer<typeof Notes>;

/** What a folder's notes are called. */
export const notesName = '.polychron.json';

const placeOf = (folder: string): string => join(folder, notesName);

/** What is held in a folder, by file name. */
export async function heldIn(folder: string): Promise<Notes> {
  const text = await readFile(placeOf(folder), 'utf8').catch(ifMissing);
  return text === null ? {} : Notes.parse(JSON.parse(text));
}

/**
 * What a file is the working copy of. @throws Told where it is none, or of a document on another server: to
 * this one nothing of it is sent
 */
export async function heldAs(path: string, server: string): Promise<HeldHere> {
  const found = await heldHere(path, server);
  if (found) return found;
  throw new Told(
    `${basename(path)} is the working copy of nothing here. Check its document out in this folder.`,
  );
}

/** A file with what it is the working copy of. */
interface HeldHere {
  file: string;
  folder: string;
  held: Held;
}

/** The same, found by its path or by its document's number; null where there is none. @throws Told */
export async function heldHere(path: string, server: string): Promise<HeldHere | null> {
  const given = resolve(path);
  const named = (await heldIn(dirname(given)))[basename(given)];
  const [numbered] = Object.entries(await heldIn('.')).filter(
    ([, { number }]) => number.toLowerCase() === basename(path).toLowerCase(),
  );
  const file = named || !numbered ? given : resolve(numbered[0]);
  const folder = dirname(file);
  const held = named ?? numbered?.[1];
  if (!held) return null;
  if (held.server !== server) {
    const there = `${basename(file)} is the working copy of a document on ${held.server}`;
    throw new Told(`${there}; you are signed in to ${server}. Sign in there first.`);
  }
  return { file, folder, held };
}

/** Notes what a file is, or null: that it is nothing any more. */
export async function note(path: string, held: Held | null): Promise<void> {
  const folder = dirname(resolve(path));
  const { [basename(path)]: _, ...others } = await heldIn(folder);
  const notes = held ? { ...others, [basename(path)]: held } : others;
  // Written beside and put in its place, so that it is never half there.
  const beside = `${placeOf(folder)}.${randomUUID()}`;
  await writeFile(beside, `${JSON.stringify(notes, null, 2)}\n`, { flag: 'wx' });
  await rename(beside, placeOf(folder));
}

/**
 * A file as it stands, never in memory whole, with its SHA-256 in lower-case hexadecimal. @throws Told where
 * it is a link: whoever made the folder could have it lead to what is none of the server's
 */
export async function contentOf(path: string): Promise<{ blob: Blob; sha256: string }> {
  // Says that there is no such file as other readings do.
  if (!(await lstat(path)).isFile())
    throw new Told(`${basename(path)} is a link, or no file. Put the file itself there.`);
  const blob = await openAsBlob(path);
  const hash = createHash('sha256');
  for await (const part of blob.stream() as unknown as AsyncIterable<Uint8Array>) hash.update(part);
  return { blob, sha256: hash.digest('hex') };
}
