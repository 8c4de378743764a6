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

/**
 * A part of a library's recovery shelf as far as somebody sees it, the soonest to go first; with number and
 * bytes of all.
 */
export async function findShelf(
  store: Store,
  libraryId: string,
  { actor, rules }: Sight,
  part: { now: Date; offset: number; count: number },
): Promise<{ found: OnShelf[]; total: number; bytes: number }> {
  const from = `versions v JOIN documents d ON d.id = v.document_id LEFT JOIN checkouts c ON c.document_id = d.id
    WHERE d.library_id = :libraryId AND v.thinned_until > :now AND v.thinned_at IS NOT NULL
      AND ${sightCondition(actor, rules)}`;
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
