import type * as contract from '@polychron/contract';
import { labelIn, may } from '@polychron/core';
import { accessLibrary } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { readNumberCursor } from '../store/cursors.ts';
import { loadDocuments } from '../store/documents.ts';
import { loadRules } from '../store/rules.ts';
import { findShelf } from '../store/shelf.ts';
import { findVersions } from '../store/versions.ts';
import { thinnedView } from './versionView.ts';

/** The recovery shelf of a library as far as the caller sees its versions; the soonest to go first. */
export async function readShelf(
  asker: Asker,
  libraryId: string,
  page: contract.ShelfQuery,
): Promise<contract.Shelf> {
  const { context } = asker;
  const { actor } = await accessLibrary(asker, libraryId);
  const rules = await loadRules(context, libraryId);
  const offset = readNumberCursor(page.cursor) ?? 0;
  const { revision = null } = page;
  const part = { now: context.clock(), revision, offset, count: page.limit + 1 };
  const { found, total, bytes } = await findShelf(context, libraryId, { actor, rules }, part);
  const shown = found.slice(0, page.limit);
  const versions = await findVersions(
    context,
    shown.map(({ versionId }) => versionId),
  );
  const documents = await loadDocuments(context, [...new Set(shown.map(({ documentId }) => documentId))]);
  const items = shown.flatMap(({ versionId, documentId, number }): contract.ShelfItem[] => {
    const [version, document] = [versions.get(versionId), documents.get(documentId)];
    const thinned = version && thinnedView(version);
    if (!version || !thinned || !document) return [];
    return [
      {
        document: { id: documentId, number, title: version.fields.title },
        versionId,
        label: labelIn(document, version),
        state: version.standing ?? version.state,
        size: version.content.size,
        comment: version.comment,
        thinned,
      },
    ];
  });
  const next = found.length > page.limit ? String(offset + page.limit) : null;
  const mayRecover = may(actor.roles, 'recover') && actor.lookingAs === undefined;
  return { items, next, total, bytes, mayRecover };
}
