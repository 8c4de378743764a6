import { refuse, sizeWords } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { Refused } from '../refused.ts';
import type { Tx } from '../store/database.ts';
import { deskUse } from '../store/deskFiles.ts';

/** Files and folders a person may keep on their Desk; it is a place to pass through. */
const maximumFiles = 1000;

/**
 * Refuses what a person's Desk has no room for, saves of what they hold counted; inside a transaction nobody
 * else takes the same room.
 * @param more files, folders and bytes that are to be added
 * @throws Refused `desk-full`
 */
export async function refuseFullDesk(
  { context, caller }: Asker,
  more: { files: number; bytes: number },
  tx?: Tx,
): Promise<void> {
  const { files, bytes } = await deskUse(context, caller.id, tx);
  if (more.files > 0 && files + more.files > maximumFiles) {
    const reason = `Your Desk holds ${maximumFiles} files and folders. Bring some into a library, or throw some away.`;
    throw new Refused(refuse('conflict', 'desk-full', reason, { files }));
  }
  const { deskBytes } = context;
  if (more.bytes <= 0 || bytes + more.bytes <= deskBytes) return;
  const reason = `Your Desk keeps ${sizeWords(bytes)} of ${sizeWords(deskBytes)}, with the saves of what you hold; this needs ${sizeWords(more.bytes)}. Check something in, give it back, or throw files away.`;
  throw new Refused(refuse('conflict', 'desk-full', reason, { bytes, deskBytes, needs: more.bytes }));
}
