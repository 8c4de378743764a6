import { z } from 'zod';
import { DocumentInLibrary, Id, Instant, Paging } from './common.ts';

/** Until when what was in force is asked for; left out: until now. */
export const CalendarQuery = z.strictObject({ to: Instant.optional(), ...Paging });

/** From when until when a version was in force; null: it still was. */
const Reign = z.object({
  version: z.string(),
  versionId: Id,
  from: Instant,
  until: Instant.nullable(),
});

/** Documents by number, with what was in force when, the oldest first. */
export const Calendar = z.object({
  items: z.array(z.object({ document: DocumentInLibrary, reigns: z.array(Reign) })),
  next: z.string().nullable(),
  total: z.number(),
  /** Whether there are more than `total`. */
  about: z.boolean(),
});

export type CalendarQuery = z.output<typeof CalendarQuery>;
export type Calendar = z.output<typeof Calendar>;
