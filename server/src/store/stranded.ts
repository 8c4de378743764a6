import { type Charge, type Role, rolesThatMay } from '@polychron/core';
import { rows, type Tx } from './database.ts';
import { isNotVoided } from './sight.ts';
import type { Store } from './store.ts';

/** Work of somebody who would not have the roles for it any more. */
export interface Stranded {
  work: Extract<Charge, 'decides' | 'holds' | 'owns'>;
  personId: string;
  /** The person's name. */
  name: string;
  documentId: string;
  libraryId: string;
  number: string;
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

/** Work in libraries of people who lack the roles for it, person by person; at most so much. */
export function strandedWork(
  store: Store,
  of: { libraryIds: readonly string[]; personIds: readonly string[]; count: number },
  tx: Tx,
): Promise<Stranded[]> {
  if (of.personIds.length === 0) return Promise.resolve([]);
  return rows<Stranded>(
    store.db,
    `SELECT w.work, w.personId, p.name, w.id AS documentId, w.library_id AS libraryId, w.number FROM (
       SELECT 'decides' AS work, a.person_id AS personId, d.id, d.library_id, d.number FROM approval_posts a
         JOIN approval_runs r ON r.id = a.run_id AND r.ended_at IS NULL
         JOIN documents d ON d.id = r.document_id AND d.library_id IN (:libraryIds)
         WHERE a.person_id IN (:personIds) AND (a.decision IS NULL OR a.decision = 'later')
           AND ${lacks('a.person_id', 'AND h.role IN (:deciding)')}
       UNION ALL SELECT 'holds', c.holder_id, d.id, d.library_id, d.number FROM checkouts c
         JOIN documents d ON d.id = c.document_id AND d.library_id IN (:libraryIds)
         WHERE c.holder_id IN (:personIds) AND ${lacks('c.holder_id', 'AND h.role IN (:holding)')}
       UNION ALL SELECT 'owns', d.owner_id, d.id, d.library_id, d.number FROM documents d
         WHERE d.library_id IN (:libraryIds) AND d.owner_id IN (:personIds) AND ${isNotVoided} AND ${lacks('d.owner_id', '')}
     ) w JOIN people p ON p.id = w.personId AND p.closed_at IS NULL
     ORDER BY w.work, p.name, w.number LIMIT :count`,
    { ...of, deciding: rolesThatMay('decide'), holding: rolesThatMay('checkIn') },
    tx,
  );
}
