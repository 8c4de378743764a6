import { z } from 'zod';
import { Comment, Instant, VersionName } from './common.ts';

/** Withdraws a published version: what is in force, unless another is named. */
export const Withdraw = z.strictObject({
  version: VersionName.optional(),
  reason: Comment.default(''),
});

/** Puts an earlier published version back in force under its own number. */
export const Reinstate = z.strictObject({ version: VersionName, reason: Comment.default('') });

/** When a scheduled version is to come into force; null: at once. */
export const Reschedule = z.strictObject({
  version: VersionName.optional(),
  inForceFrom: Instant.nullable(),
});

/** The scheduled version that is taken back, and why. */
export const TakeBack = z.strictObject({
  version: VersionName.optional(),
  reason: Comment.default(''),
});

/** Acts whose outcome for readers is asked before. */
export const standingActs = ['withdraw', 'reinstate', 'takeBack'] as const;
export const OutlookQuery = z.strictObject({ act: z.enum(standingActs) });

/** What readers would have after an act on a published version. */
export const Outlook = z.object({
  /** The label of what would be in force; null: nothing. */
  inForce: z.string().nullable(),
  /** Members who would see it. */
  readers: z.number(),
  /** Labels of the versions that would be withdrawn. */
  withdrawn: z.array(z.string()),
  /** The version before, where it cannot come back because its content was thinned. */
  thinned: z.string().nullable(),
});

export type Outlook = z.output<typeof Outlook>;
