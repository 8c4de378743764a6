import type * as contract from '@polychron/contract';
import { markTemplate } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { documentAnswer } from '../reads/documentView.ts';
import { perform } from './perform.ts';

/** Makes a document the template of a type, or ends that. Returns the document. */
export async function performMarkTemplate(
  asker: Asker,
  documentId: string,
  type: string | null,
): Promise<contract.Document> {
  const { access } = await perform(asker, documentId, async ({ document, actor }) =>
    markTemplate(document, actor, { type }),
  );
  return (await documentAnswer(asker.context, access)).view;
}
