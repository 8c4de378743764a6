import { giveBack } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { perform } from './perform.ts';

/** Ends the caller's check-out without a version. */
export async function performGiveBack(asker: Asker, documentId: string): Promise<void> {
  await perform(asker, documentId, ({ document, actor }) => giveBack(document, actor));
}
