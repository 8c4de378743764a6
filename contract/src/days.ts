import { z } from 'zod';
import { DocumentInLibrary, Id, Instant, Paging, Person } from './common.ts';

/** Which days are looked at: after one moment, until another. */
export const DaysQuery = z.strictObject({ from: Instant, to: Instant, ...Paging });

export const happenings = ['inForce', 'left', 'decided'] as const;

/** What happened to a version: it came into force, ceased to be, or somebody decided about it. */
const Happening = z.object({
  at: Instant,
  what: z.enum(happenings),
  document: DocumentInLibrary,
  version: z.string(),
  versionId: Id,
  /** Who decided, and how; null where nobody did. */
  by: Person.nullable(),
  decision: z.enum(['approve', 'reject']).nullable(),
  /** The check-in comment, or the words of the decision where the caller could see the run. */
  comment: z.string().nullable(),
});

/** What happened in a library between two moments, as far as the caller saw it and may see it now. */
export const Days = z.object({ items: z.array(Happening), next: z.string().nullable() });

export type DaysQuery = z.output<typeof DaysQuery>;
export type Days = z.output<typeof Days>;
