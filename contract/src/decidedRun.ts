import { z } from 'zod';
import { decisions, runOutcomes } from '@polychron/core';
import { Instant, Person } from './common.ts';

/**
 * The run that ended last about a version, kept with it for good. Who decided and when is told to whoever
 * sees the version; the words are null for those who could not see the run.
 */
export const DecidedRun = z.object({
  mode: z.enum(['serial', 'together', 'anyOne']),
  submittedBy: Person,
  at: Instant,
  comment: z.string().nullable(),
  outcome: z.enum(runOutcomes),
  endedAt: Instant,
  posts: z.array(
    z.object({
      ...Person.shape,
      decision: z.enum(decisions).nullable(),
      at: Instant.nullable(),
      comment: z.string().nullable(),
      /** Whether a controller decided in the place of those who were asked. */
      inPlace: z.boolean(),
    }),
  ),
});
export type DecidedRun = z.output<typeof DecidedRun>;
