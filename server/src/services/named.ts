import type * as contract from '@polychron/contract';
import type { Version } from '@polychron/core';
import type { Context } from '../context.ts';
import { loadDocuments } from '../store/documents.ts';
import { newestVisible } from '../store/visibleVersions.ts';
import { type Access, actorIn, type Caller, type LibraryActor } from './access.ts';

/** A document with how it is named to the caller. */
export interface NamedDocument {
  access: Access; name: contract.Notice['document'];
  /** The newest version the caller sees. */
  newest: Version;
}

/** Documents of any libraries, by id, as far as the caller sees something of them, named by the newest version they see. */
export async function documentNames(context: Context, caller: Caller, ids: readonly string[]): Promise<Map<string, NamedDocument>> {
  const documents = await loadDocuments(context, [...new Set(ids)]);
  const named = new Map<string, NamedDocument>();
  for (const libraryId of new Set([...documents.values()].map((document) => document.libraryId))) {
    const actor: LibraryActor = await actorIn(context, caller, libraryId);
    const library = await context.models.Library.findByPk(libraryId, { rejectOnEmpty: true });
    const here = [...documents.values()].filter((document) => document.libraryId === libraryId);
    const first = here[0];
    if (actor.roles.size === 0 || !first) continue;
    const visible = await newestVisible(context, actor, first.rules, here.map(({ id }) => id), 1);
    for (const document of here) {
      const newest = visible.get(document.id)?.versions.at(-1);
      if (newest) named.set(document.id, { newest, access: { document, actor }, name: { id: document.id, number: document.number, title: newest.fields.title, library: { id: libraryId, code: library.code, name: library.name } } });
    }
  }
  return named;
}
