import { routes } from '@polychron/contract';
import type { Client } from '../client.ts';
import { contentOf, type Held, heldAs, note } from '../folder.ts';

/**
 * Keeps what a file says now as its document's working copy; not over what was saved elsewhere meanwhile.
 * Returns what it is then; null where nothing has changed.
 */
export async function save(client: Client, path: string): Promise<Held | null> {
  const { file, held } = await heldAs(path, client.server);
  const { blob, sha256: present } = await contentOf(file);
  if (present === held.sha256) return null;
  const custody = await client.call(routes.saveWorkingCopy, {
    params: { id: held.documentId },
    blob,
    headers: { 'If-Match': `"${held.sha256}"` },
  });
  const kept = { ...held, base: custody.base ?? held.base, sha256: present };
  await note(file, kept);
  return kept;
}
