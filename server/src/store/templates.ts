import type { Viewer } from '@polychron/core';
import { rows } from './database.ts';
import { isNotVoided, isThereFor } from './sight.ts';
import type { Store } from './store.ts';

/** Templates of a library that are in force and there for somebody, by type and number; and how many. */
export async function findTemplates(
  store: Store,
  { libraryId, viewer }: { libraryId: string; viewer: Viewer },
  { offset, count }: { offset: number; count: number },
): Promise<{ ids: string[]; total: number }> {
  const from = `FROM documents d JOIN heads h ON h.document_id = d.id
    WHERE d.library_id = :libraryId AND d.template_for IS NOT NULL AND h.in_force_id IS NOT NULL
      AND ${isNotVoided} AND ${isThereFor(viewer)}`;
  const given = { libraryId, viewer: viewer.id, offset, count };
  const found = await rows<{ id: string }>(
    store.db,
    `SELECT d.id ${from} ORDER BY d.template_for, d.number LIMIT :count OFFSET :offset`,
    given,
  );
  const [counted] = await rows<{ total: number }>(store.db, `SELECT COUNT(*) AS total ${from}`, given);
  return { ids: found.map(({ id }) => id), total: Number(counted?.total ?? 0) };
}
