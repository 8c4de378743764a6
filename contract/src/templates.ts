import { z } from 'zod';
import { DocumentName, Paging } from './common.ts';

/** The type of documents that begin as a copy of the document; null: none do any more. */
export const MarkTemplate = z.strictObject({ type: z.string().trim().min(1).max(60).nullable() });

/** Which part of the templates. */
export const TemplateQuery = z.strictObject(Paging);

/** Templates of a library that are in force, by type. */
export const TemplateList = z.object({
  items: z.array(
    z.object({
      type: z.string(),
      document: DocumentName,
      /** The version that a new document begins with. */
      version: z.string(),
      fileName: z.string(),
    }),
  ),
  next: z.string().nullable(),
  total: z.number(),
});

export type TemplateList = z.output<typeof TemplateList>;
