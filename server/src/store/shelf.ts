import { rows } from './database.ts';
import { sightCondition } from './sight.ts';
import type { Store } from './store.ts';
import type { Sight } from './versions.ts';

/** Thinned content that waits on the recovery shelf. */
export interface OnShelf {
  versionId: string;
  documentId: string;
  number: string;
}

/** Whether the rules thinned a version `v`, nobody's hand, between a revision and the next. */
const byRevision = `AND v.thinned_why NOT LIKE 'By hand: %'
  AND v.thinned_at >= (SELECT r.at FROM rulebook_revisions r
    WHERE r.library_id = :libraryId AND r.revision = :revision)
  AND v.thinned_at < COALESCE((SELECT MIN(r.at) FROM rulebook_revisions r
    WHERE r.library_id = :libraryId AND r.revision > :revision), '9999-12-31')`;

/**
 * A part of a library's recovery shelf as far as somebody sees it, the soonest to go first; with number and
 * bytes of all. Where a revision is named, only what the rules thinned while it was in force.
 */
export async function findShelf(
  store: Store,
  libraryId: string,
  { actor, rules }: Sight,
  part: { now: Date; revision: number | null; offset: number; count: number },
): Promise<{ found: OnShelf[]; total: number; bytes: number }> {
  const from = `versions v JOIN documents d ON d.id = v.document_id LEFT JOIN checkouts c ON c.document_id = d.id
    WHERE d.library_id = :libraryId AND v.thinned_until > :now AND v.thinned_at IS NOT NULL
      AND ${sightCondition(actor, rules)} ${part.revision === null ? '' : byRevision}`;
  const replacements = { libraryId, viewer: actor.id, ...part };
  const [sum] = await rows<{ total: number; bytes: number | null }>(
    store.db,
    `SELECT COUNT(*) AS total, SUM(v.size) AS bytes FROM ${from}`,
    replacements,
  );
  const found = await rows<OnShelf>(
    store.db,
    `SELECT v.id AS versionId, v.document_id AS documentId, d.number FROM ${from}
     ORDER BY v.thinned_until, d.number, v.sequence LIMIT :count OFFSET :offset`,
    replacements,
  );
  return { found, total: Number(sum?.total ?? 0), bytes: Number(sum?.bytes ?? 0) };
}
