import { z } from 'zod';
import { checkInQuestions } from '@polychron/core';
import { Comment, Id, Instant, Level, List } from './common.ts';

/** Acts that several documents can go through at once. */
export const bulkActs = ['checkOut', 'checkIn', 'giveBack', 'submit', 'publish', 'approve'] as const;

/** One act on several documents. */
export const Bulk = z.strictObject({
  act: z.enum(bulkActs),
  documents: z.array(Id).min(1).max(100),
  rehearse: z.boolean().default(false),
  comment: Comment.default(''),
  /** A comment of its own for some of the documents, by id. */
  comments: z.record(Id, Comment).default({}),
  level: Level.optional(),
  keepCheckedOut: z.boolean().default(false),
  reason: z.string().max(1_000_000).optional(),
  until: Instant.optional(),
  confirm: List.pipe(z.array(z.enum(checkInQuestions))).default([]),
});

/** What became, or would become, of each document, in the order asked. */
export const BulkOutcomes = z.object({
  outcomes: z.array(
    z.object({
      document: Id,
      number: z.string(),
      title: z.string(),
      ok: z.boolean(),
      text: z.string(),
      label: z.string().nullable(),
      problem: z.object({ code: z.string(), detail: z.string() }).nullable(),
    }),
  ),
});

export type Bulk = z.output<typeof Bulk>;

export type BulkOutcomes = z.output<typeof BulkOutcomes>;
