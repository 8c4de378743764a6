import { z } from 'zod';

/** Where one's files stand that are to be read. */
export const TurnsView = z.object({
  /** One's own at work, and waiting. */
  working: z.number(),
  waiting: z.number(),
  /** How many are read before the first of one's own that waits; null where none does. */
  ahead: z.number().nullable(),
});
