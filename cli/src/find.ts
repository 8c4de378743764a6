import { type Document, type Library, routes } from '@polychron/contract';
import { basename, dirname, resolve } from 'node:path';
import { type Client, Told } from './client.ts';
import { heldIn } from './folder.ts';

/** Whether a library has, or had, a code, in letters of any size. */
function isCalled({ code, formerCodes }: Pick<Library, 'code' | 'formerCodes'>, name: string): boolean {
  return [code, ...formerCodes].includes(name.toUpperCase());
}

/** A library by its code, or one it had before. @throws Told */
export async function libraryCalled(client: Client, code: string): Promise<{ id: string; code: string }> {
  const { items } = await client.call(routes.listLibraries);
  const library = items.find((one) => isCalled(one, code));
  if (library) return library;
  throw new Told(
    `There is no library ${code}, or you are not in it. There is: ${items.map((one) => one.code).join(', ')}.`,
  );
}

/**
 * A document by its number, in whichever library has it; `CODE/NUMBER` names the library. A file that is the
 * working copy of one names it, too.
 * @throws Told where there is none, or several
 */
export async function documentCalled(client: Client, name: string): Promise<Document> {
  const file = (await heldIn(dirname(resolve(name))))[basename(name)];
  if (file?.server === client.server) {
    return client.call(routes.readDocument, { params: { id: file.documentId } });
  }
  const [number = '', code] = name.split('/').reverse();
  const { items: libraries } = await client.call(routes.listLibraries);
  const found: Document[] = [];
  for (const library of libraries) {
    if (code !== undefined && !isCalled(library, code)) continue;
    const query = { q: number, limit: 50 };
    const { items } = await client.call(routes.listDocuments, { params: { id: library.id }, query });
    found.push(...items.filter((one) => one.number.toLowerCase() === number.toLowerCase()));
  }
  const [only, ...others] = found;
  if (!only) throw new Told(`There is no document ${name}, or nothing of it that you may see.`);
  if (others.length === 0) return only;
  const names = found.map((one) => `${one.library.code}/${one.number}`).join(' or ');
  throw new Told(`${name} is in several libraries. Say which: ${names}.`);
}
