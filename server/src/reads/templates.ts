import type * as contract from '@polychron/contract';
import { type ContentFacts, labelIn, refuse } from '@polychron/core';
import { accessDocument, accessLibrary, findContent } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { Refused } from '../refused.ts';
import { type Page, readNumberCursor } from '../store/cursors.ts';
import { loadDocuments } from '../store/documents.ts';
import { findTemplates } from '../store/templates.ts';

/** Templates of a library: documents marked as such that are in force, which every member sees. */
export async function readTemplates(
  asker: Asker,
  libraryId: string,
  page: Page,
): Promise<contract.TemplateList> {
  const { context } = asker;
  const { actor } = await accessLibrary(asker, libraryId);
  const offset = readNumberCursor(page.cursor) ?? 0;
  const { ids, total } = await findTemplates(
    context,
    { libraryId, viewer: actor },
    { offset, count: page.limit },
  );
  const documents = await loadDocuments(context, ids);
  const items = ids.flatMap((id): contract.TemplateList['items'] => {
    const document = documents.get(id);
    if (!document?.inForce || document.templateFor === null) return [];
    const { number, inForce, templateFor } = document;
    const { fields, content } = inForce;
    return [
      {
        type: templateFor,
        document: { id, number, title: fields.title },
        version: labelIn(document, inForce),
        fileName: content.fileName,
      },
    ];
  });
  return { items, next: offset + page.limit < total ? String(offset + page.limit) : null, total };
}

/** What a new document begins with: the content in force of a template of its library. */
export interface TemplateContent {
  versionId: string;
  content: ContentFacts;
}

/** @throws Refused `template-not-found` where the library has no such template in force */
export async function templateContent(
  asker: Asker,
  libraryId: string,
  documentId: string,
): Promise<TemplateContent> {
  const access = await accessDocument(asker, documentId).catch((error: unknown) => {
    if (error instanceof Refused) return null;
    throw error;
  });
  const { inForce = null, templateFor = null } = access?.document ?? {};
  if (!access || access.document.libraryId !== libraryId || !inForce || templateFor === null) {
    const reason = 'This library has no such template in force. Choose one of its templates, or send a file.';
    throw new Refused(refuse('notFound', 'template-not-found', reason));
  }
  const { id, content } = await findContent(asker, access, inForce.id);
  return { versionId: id, content };
}
