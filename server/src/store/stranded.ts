import { type Role, rolesThatMay } from '@polychron/core';
import { rows, type Tx } from './database.ts';
import type { Store } from './store.ts';

/** Work of somebody who would not have the roles for it any more. */
export interface Stranded {
  work: 'decides' | 'holds' | 'owns';
  name: string;
  /** One of the documents, and how many there are. */
  number: string;
  documents: number;
}

/** Who holds which roles in libraries, as `library person role`. */
export async function heldRoles(store: Store, libraryIds: readonly string[], tx: Tx): Promise<Set<string>> {
  if (libraryIds.length === 0) return new Set();
  const held = await rows<{ libraryId: string; personId: string; role: Role }>(
    store.db,
    `SELECT library_id AS libraryId, person_id AS personId, role FROM held_roles
     WHERE library_id IN (:libraryIds)`,
    { libraryIds },
    tx,
  );
  return new Set(held.map(({ libraryId, personId, role }) => `${libraryId} ${personId} ${role}`));
}

const lacks = (person: string, roles: string): string =>
  `NOT EXISTS (SELECT 1 FROM held_roles h WHERE h.library_id = d.library_id AND h.person_id = ${person} ${roles})`;

/** Work in libraries of people who lack the roles for it, of each person and kind one document. */
export async function strandedWork(
  store: Store,
  of: { libraryIds: readonly string[]; personIds: readonly string[] },
  tx: Tx,
): Promise<Stranded[]> {
  if (of.personIds.length === 0) return [];
  const found = await rows<Omit<Stranded, 'documents'> & { documents: number | bigint }>(
    store.db,
    `SELECT w.work, p.name, MIN(w.number) AS number, COUNT(DISTINCT w.number) AS documents FROM (
       SELECT 'decides' AS work, a.person_id AS personId, d.number FROM approval_posts a
         JOIN approval_runs r ON r.id = a.run_id AND r.ended_at IS NULL
         JOIN documents d ON d.id = r.document_id AND d.library_id IN (:libraryIds)
         WHERE a.person_id IN (:personIds) AND a.decision IS NULL
           AND ${lacks('a.person_id', 'AND h.role IN (:deciding)')}
       UNION ALL SELECT 'holds', c.holder_id, d.number FROM checkouts c
         JOIN documents d ON d.id = c.document_id AND d.library_id IN (:libraryIds)
         WHERE c.holder_id IN (:personIds) AND ${lacks('c.holder_id', 'AND h.role IN (:holding)')}
       UNION ALL SELECT 'owns', d.owner_id, d.number FROM documents d
         WHERE d.library_id IN (:libraryIds) AND d.owner_id IN (:personIds) AND ${lacks('d.owner_id', '')}
     ) w JOIN people p ON p.id = w.personId AND p.closed_at IS NULL
     GROUP BY w.work, p.id ORDER BY w.work, p.name`,
    { ...of, deciding: rolesThatMay('decide'), holding: rolesThatMay('checkIn') },
    tx,
  );
  return found.map((one) => ({ ...one, documents: Number(one.documents) }));
}
