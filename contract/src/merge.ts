import { z } from 'zod';
import { checkInQuestions, mergeChoices } from '@polychron/core';
import { Comment, DocumentInLibrary, Id, Level, VersionName } from './common.ts';

/** What a file is laid over. */
export const MergeQuery = z.strictObject({
  document: Id.optional().meta({ description: 'The document to bring it into, where the file does not say' }),
});

/** A file laid over what happened to its document since it was taken. */
export const Merge = z.object({
  document: DocumentInLibrary,
  base: z.string(),
  latest: z.string(),
  /** `null`: files of this type are not merged; one side is taken whole. */
  format: z.enum(['docx', 'text']).nullable(),
  why: z.string().nullable(),
  regions: z.array(
    z.object({
      kind: z.enum(['same', 'present', 'mine', 'both', 'words', 'conflict']),
      base: z.array(z.string()),
      present: z.array(z.string()),
      mine: z.array(z.string()),
      merged: z.array(z.string()).nullable(),
      /** Where in a table it stands: its row by the first cell, and its column. */
      place: z.string().optional(),
      /** Parts of each file that hold the pictures of a region, where it has any. */
      pictures: z
        .object({ base: z.array(z.string()), present: z.array(z.string()), mine: z.array(z.string()) })
        .optional(),
      /** The sides of a conflict have the same words, formatted differently. */
      formattingOnly: z.boolean().optional(),
    }),
  ),
  conflicts: z.number(),
  /**
   * Whether one program wrote all three; else formatting the page does not show stays as in the latest
   * version.
   */
  sameWriter: z.boolean(),
  /** What both changed beside the text, such as "the page size": the latest version's is kept. */
  kept: z.array(z.string()),
});

/** Makes a file of one's own the next version. */
export const BringIn = z.strictObject({
  document: Id.optional(),
  level: Level.optional(),
  comment: Comment.default(''),
  keepFileName: z.boolean().default(false),
  confirm: z.array(z.enum(checkInQuestions)).default([]),
  /** What was chosen for regions of the merge, by index; null takes the file as it is. */
  choices: z
    .record(z.string().regex(/^\d{1,6}$/), z.enum(mergeChoices))
    .nullable()
    .default(null),
  /** The latest version the merge was looked at with; another one since then is refused. */
  latest: VersionName.optional(),
});

export type Merge = z.output<typeof Merge>;

export type BringIn = z.output<typeof BringIn>;
