import type * as contract from '@polychron/contract';
import { type Review, review } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { readDocument } from '../reads/document.ts';
import { perform } from './perform.ts';

/** Reviews what is in force. Returns the document. */
export async function performReview(
  asker: Asker,
  documentId: string,
  command: Review,
): Promise<contract.Document> {
  await perform(asker, documentId, ({ document, actor }, now) => review(document, actor, command, now));
  return (await readDocument(asker, documentId)).view;
}
