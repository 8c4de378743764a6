import { z } from 'zod';
import { DocumentName, Id, Instant, Paging } from './common.ts';

/** Which part of the recovery shelf. */
export const ShelfQuery = z.strictObject({
  revision: z.coerce.number().int().min(1).max(1_000_000).optional().meta({
    description: 'Only what the rules thinned while this revision of the Rulebook was in force',
  }),
  ...Paging,
});
export type ShelfQuery = z.output<typeof ShelfQuery>;

/** Thinned content that can be recovered. */
export const ShelfItem = z.object({
  document: DocumentName,
  versionId: Id,
  label: z.string(),
  state: z.string(),
  size: z.number(),
  comment: z.string(),
  thinned: z.object({ at: Instant, until: Instant, why: z.string() }),
});

/** A part of the recovery shelf. */
export const Shelf = z.object({
  items: z.array(ShelfItem),
  next: z.string().nullable(),
  total: z.number(),
  bytes: z.number(),
  mayRecover: z.boolean(),
});

export type Shelf = z.output<typeof Shelf>;

export type ShelfItem = z.output<typeof ShelfItem>;
