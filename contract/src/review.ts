import { z } from 'zod';
import { reviewOutcomes } from '@polychron/core';
import { Comment, DocumentInLibrary, Instant, Person } from './common.ts';

/** Reviews what is in force: it holds on, with the date of the next review, or it is to be changed. */
export const Review = z.strictObject({
  outcome: z.enum(reviewOutcomes),
  comment: Comment.default(''),
  /** Where it holds on: by when it is to be reviewed next; null: by no date. */
  nextBy: z.iso.date().nullable().default(null),
});

/** A review of what is in force; its comment only for whoever sees past versions too. */
export const KeptReview = z.object({
  by: Person,
  at: Instant,
  outcome: z.enum(reviewOutcomes),
  comment: z.string().nullable(),
  nextBy: z.iso.date().nullable(),
});

/** A document that is to be reviewed, and by when. */
export const ReviewDue = z.object({ document: DocumentInLibrary, reviewBy: z.iso.date() });
