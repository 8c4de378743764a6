import { readStoredRulebook, type Rulebook } from '@polychron/core';
import { rows, type Tx } from './database.ts';
import { parseJson, type RulebookRevisionRow } from './models.ts';
import type { Store } from './store.ts';

/** A revision of a library's Rulebook. */
export interface Revision {
  revision: number;
  rulebook: Rulebook;
  personId: string;
  at: Date;
  reason: string;
}

const toRevision = ({ revision, rulebook, personId, at, reason }: RulebookRevisionRow): Revision => ({
  revision,
  rulebook: readStoredRulebook(parseJson(rulebook)),
  personId,
  at,
  reason,
});

/** The rules in force in a library. */
export async function loadRules(store: Store, libraryId: string, tx?: Tx): Promise<Rulebook> {
  const state = await findLibraryState(store, libraryId, tx);
  if (!state) throw new Error(`library ${libraryId} has no rulebook`);
  return state.rules;
}

/** The revision of a library's rules that held at a moment; before there were any, the first. */
export async function revisionAsOf(store: Store, libraryId: string, at: Date): Promise<number> {
  const [found] = await rows<{ revision: number | null }>(
    store.db,
    'SELECT MAX(revision) AS revision FROM rulebook_revisions WHERE library_id = :libraryId AND at <= :at',
    { libraryId, at },
  );
  return found?.revision ?? 1;
}

/** What acts in a library depend on: its rules, and whether it is closed; and what it is called. */
export interface LibraryState {
  library: { code: string; name: string };
  rules: Rulebook;
  closed: { name: string; at: Date } | null;
}

/** What acts in a library depend on, as it is now; null where there is no such library. */
export const findLibraryState = async (
  store: Store,
  libraryId: string,
  tx?: Tx,
): Promise<LibraryState | null> => (await statesOf(store, [libraryId], tx)).get(libraryId) ?? null;

/** What acts in libraries depend on, by library. */
export async function statesOf(
  store: Store,
  libraryIds: readonly string[],
  tx?: Tx,
): Promise<Map<string, LibraryState>> {
  if (libraryIds.length === 0) return new Map();
  return statesWhere(store, ':libraryIds', { libraryIds }, tx);
}

/** What acts in the libraries of documents depend on, by library. */
export const statesOfLibraries = (
  store: Store,
  documentIds: readonly string[],
  tx?: Tx,
): Promise<Map<string, LibraryState>> =>
  statesWhere(
    store,
    'SELECT DISTINCT library_id FROM heads WHERE document_id IN (:documentIds)',
    { documentIds },
    tx,
  );

async function statesWhere(
  store: Store,
  whichIds: string,
  given: Record<string, unknown>,
  tx?: Tx,
): Promise<Map<string, LibraryState>> {
  const found = await rows<{
    id: string;
    rulebook: unknown;
    code: string;
    name: string;
    closedAt: Date | null;
  }>(
    store.db,
    `SELECT l.id, r.rulebook, l.code, l.name, l.closed_at AS closedAt FROM libraries l
     JOIN rulebook_revisions r ON r.library_id = l.id AND r.revision = l.rulebook_revision
     WHERE l.id IN (${whichIds})`,
    given,
    tx,
  );
  return new Map(
    found.map(({ id, rulebook, code, name, closedAt: at }) => [
      id,
      {
        library: { code, name },
        rules: readStoredRulebook(parseJson(rulebook)),
        closed: at && { name, at },
      },
    ]),
  );
}

/** One revision of a library's Rulebook; one that there is. */
export async function loadRevision(
  store: Store,
  libraryId: string,
  revision: number,
  tx?: Tx,
): Promise<Revision> {
  const row = await store.models.RulebookRevision.findOne({
    where: { libraryId, revision },
    transaction: tx ?? null,
    rejectOnEmpty: true,
  });
  return toRevision(row);
}

/**
 * Up to `count` revisions, newest first, from one on; the one before them comes along, for what they changed.
 */
export async function loadRevisions(
  store: Store,
  libraryId: string,
  part: { newest: number; count: number },
): Promise<Revision[]> {
  const numbers = Array.from({ length: part.count + 1 }, (_, index) => part.newest - index);
  const found = await store.models.RulebookRevision.findAll({
    where: { libraryId, revision: numbers },
    order: [['revision', 'DESC']],
  });
  return found.map(toRevision);
}

/** Keeps a revision, and makes it the one in force. */
export async function addRevision(
  store: Store,
  libraryId: string,
  revision: Revision,
  tx: Tx,
): Promise<void> {
  await store.models.RulebookRevision.create({ libraryId, ...revision }, { transaction: tx });
  await store.models.Library.update(
    { rulebookRevision: revision.revision },
    { where: { id: libraryId }, transaction: tx },
  );
}
