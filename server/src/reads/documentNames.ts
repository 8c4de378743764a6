import type * as contract from '@polychron/contract';
import type { Version } from '@polychron/core';
import { actorIn } from '../access/actor.ts';
import type { Access, Asker } from '../access/caller.ts';
import { loadDocuments, type LoadedDocument } from '../store/documents.ts';
import { newestVisible } from '../store/versions.ts';

/** A document with how it is named to the caller. */
export interface NamedDocument {
  access: Access;
  name: contract.Notice['document'];
  /** The newest version the caller sees. */
  newest: Version;
}

/**
 * Documents of any libraries, by id, as far as the caller sees something of them, named by the newest version
 * they see.
 */
export async function documentNames(
  asker: Asker,
  ids: readonly string[],
): Promise<Map<string, NamedDocument>> {
  const documents = [...(await loadDocuments(asker.context, [...new Set(ids)])).values()];
  const named = new Map<string, NamedDocument>();
  for (const libraryId of new Set(documents.map((document) => document.libraryId))) {
    const here = documents.filter((document) => document.libraryId === libraryId);
    for (const one of await namesInLibrary(asker, libraryId, here)) named.set(one.name.id, one);
  }
  return named;
}

async function namesInLibrary(
  { context, caller }: Asker,
  libraryId: string,
  documents: readonly LoadedDocument[],
): Promise<NamedDocument[]> {
  const [first] = documents;
  if (!first) return [];
  const actor = await actorIn(context, caller, libraryId);
  if (actor.roles.size === 0) return [];
  const library = { id: libraryId, ...first.library };
  const documentIds = documents.map(({ id }) => id);
  const sight = { actor, rules: first.rules };
  const visible = await newestVisible(context, sight, { documentIds, count: 1 });
  return documents.flatMap((document) => {
    const newest = visible.get(document.id)?.versions.at(-1);
    if (!newest) return [];
    const { id, number } = document;
    const name = { id, number, title: newest.fields.title, library };
    return [{ newest, access: { document, actor }, name }];
  });
}
