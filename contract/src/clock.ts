import { z } from 'zod';
import { Instant } from './common.ts';

/** What time it is on the server, and whether it is believed. */
export const Clock = z.object({
  now: Instant,
  /**
   * From when the clock leapt ahead by more than a day; nothing is removed for good, nor thinned for its age,
   * until somebody confirms the time. Null where the time is believed.
   */
  leaptFrom: Instant.nullable(),
  mayConfirm: z.boolean(),
});
export type Clock = z.output<typeof Clock>;
