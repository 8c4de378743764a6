import type { Reduced } from '@polychron/core';
import { type Database, rows, run, type Tx } from './database.ts';
import { kindOf, kindsIn, namedInTeam, type SeenKinds } from './sight.ts';

/** Counts a document's versions by kind after some came or changed. */
export async function addKinds(
  db: Database,
  documentId: string,
  versions: Reduced['versions'],
  tx: Tx,
): Promise<void> {
  const sums = new Map<number, number>();
  const add = (kind: number, by: number): void => void sums.set(kind, (sums.get(kind) ?? 0) + by);
  for (const { before, after } of versions) {
    if (before) add(kindOf(before), -1);
    add(kindOf(after), 1);
  }
  const counts = [...sums].filter(([, sum]) => sum !== 0).map(([kind, sum]) => [documentId, kind, sum]);
  if (counts.length === 0) return;
  await run(
    db,
    `INSERT INTO kind_counts (document_id, kind, count) VALUES :counts
     ON DUPLICATE KEY UPDATE count = count + VALUES(count)`,
    { counts },
    tx,
  );
}

/** How many versions of each kind a document has, whoever sees them. */
export type KindCounts = ReadonlyMap<number, number>;

/** The versions of a document, counted by kind. */
export async function countKinds(db: Database, documentId: string): Promise<KindCounts> {
  const counted = await rows<{ kind: number; count: number }>(
    db,
    'SELECT kind, count FROM kind_counts WHERE document_id = :documentId',
    { documentId },
  );
  return new Map(counted.map(({ kind, count }) => [kind, count]));
}

/** How many there are of some kinds. */
export const countOf = (counts: KindCounts, kinds: number): number =>
  [...counts].reduce((sum, [kind, count]) => ((kind & kinds) === 0 ? sum : sum + count), 0);

/** How many versions of some kinds somebody wrote of a document. */
export async function countOwn(
  db: Database,
  documentId: string,
  author: { id: string; kinds: number },
): Promise<number> {
  const [found] = await rows<{ count: number }>(
    db,
    `SELECT COUNT(*) AS count FROM versions
     WHERE document_id = :documentId AND kind IN (${kindsIn(author.kinds).join()}) AND author_id = :authorId`,
    { documentId, authorId: author.id },
  );
  return Number(found?.count ?? 0);
}

/**
 * How many versions of each document somebody sees, of those that are there for them: counted by kind for
 * everybody, and one by one only where they are an author among others.
 */
export async function countVersions(
  db: Database,
  documentIds: readonly string[],
  viewer: { id: string; kinds: SeenKinds; isThere: string },
  tx?: Tx,
): Promise<Map<string, number>> {
  const { isThere } = viewer;
  const { all, team } = viewer.kinds;
  const byKind = `SELECT k.document_id AS id, SUM(k.count) AS count FROM kind_counts k
    JOIN documents d ON d.id = k.document_id LEFT JOIN checkouts c ON c.document_id = k.document_id
    WHERE k.document_id IN (:documentIds) AND ${isThere} AND ((k.kind & ${all}) <> 0 OR ((k.kind & ${team}) <> 0 AND ${namedInTeam}))
    GROUP BY k.document_id HAVING SUM(k.count) > 0`;
  const own = `SELECT v.document_id AS id, COUNT(*) AS count FROM versions v
    JOIN documents d ON d.id = v.document_id LEFT JOIN checkouts c ON c.document_id = v.document_id
    WHERE v.document_id IN (:documentIds) AND ${isThere} AND v.kind IN (${kindsIn(team).join()}) AND v.author_id = :viewer
      AND NOT ${namedInTeam}
    GROUP BY v.document_id`;
  const counted = await rows<{ id: string; count: number }>(
    db,
    team === 0 ? byKind : `${byKind} UNION ALL ${own}`,
    { documentIds: [...documentIds], viewer: viewer.id },
    tx,
  );
  const counts = new Map<string, number>();
  for (const { id, count } of counted) counts.set(id, (counts.get(id) ?? 0) + Number(count));
  return counts;
}
