import type * as contract from '@polychron/contract';
import { lift } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { readDocument } from '../reads/document.ts';
import { perform } from './perform.ts';

/** Ends somebody else's check-out; what they saved goes to their Desk, and they are told. */
export async function performLift(
  asker: Asker,
  documentId: string,
  reason: string,
): Promise<contract.Document> {
  await perform(asker, documentId, ({ document, actor }) => lift(document, actor, { reason }));
  return (await readDocument(asker, documentId)).view;
}
