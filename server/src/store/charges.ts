import { rows } from './database.ts';
import { isNotVoided } from './sight.ts';
import type { Store } from './store.ts';

/**
 * Documents a person answers for in any way (owner, co-author, approver, asked to decide, holder, copies set
 * aside), by library; not for voided ones, which nothing can be done with.
 */
export function documentsCharged(
  store: Store,
  personId: string,
): Promise<{ id: string; libraryId: string }[]> {
  return rows<{ id: string; libraryId: string }>(
    store.db,
    `SELECT d.id, d.library_id AS libraryId FROM documents d JOIN (
       SELECT document_id AS id FROM checkouts WHERE holder_id = :personId
       UNION SELECT r.document_id FROM approval_posts p JOIN approval_runs r ON r.id = p.run_id
         WHERE p.person_id = :personId AND r.open_document_id IS NOT NULL
           AND (p.decision IS NULL OR p.decision = 'later')
       UNION SELECT document_id FROM desk_files
         WHERE person_id = :personId AND kind = 'setAside' AND document_id IS NOT NULL
       UNION SELECT id FROM documents WHERE owner_id = :personId
       UNION SELECT document_id FROM document_people WHERE person_id = :personId
     ) charged ON charged.id = d.id AND ${isNotVoided} ORDER BY d.library_id, d.id`,
    { personId },
  );
}
