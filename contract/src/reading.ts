import { z } from 'zod';
import {
  type ComparedBlock,
  type ComparedRun,
  encodings,
  type Reading as CoreReading,
} from '@polychron/core';
import { VersionName } from './common.ts';

/** Which two versions are compared. */
export const CompareQuery = z.strictObject({ from: VersionName, to: VersionName });

const runShape = {
  text: z.string(),
  bold: z.boolean().optional(),
  italic: z.boolean().optional(),
  underline: z.boolean().optional(),
  strike: z.boolean().optional(),
  code: z.boolean().optional(),
  vertical: z.enum(['super', 'sub']).optional(),
  href: z.string().optional(),
  target: z.string().optional(),
  colour: z.string().optional(),
  highlight: z.string().optional(),
  size: z.number().optional(),
  caps: z.enum(['all', 'small']).optional(),
  /** A change tracked in the file and not accepted: the run came with it, or `gone` stood in its place. */
  tracked: z.object({ by: z.string(), at: z.string().nullable(), gone: z.string().optional() }).optional(),
  comment: z.number().optional(),
  field: z.enum(['page', 'pages']).optional(),
  note: z.number().optional(),
  image: z
    .object({
      part: z.string(),
      alt: z.string(),
      width: z.number().nullable(),
      height: z.number().nullable(),
      hash: z.string(),
    })
    .optional(),
};
const textShape = {
  kind: z.enum(['paragraph', 'heading', 'listItem']),
  level: z.number(),
  align: z.enum(['left', 'center', 'right', 'justify']).optional(),
  /** A hash of how it stands otherwise: spacing, borders, tabs, fonts. */
  rest: z.string().optional(),
  marker: z.string().optional(),
  direction: z.literal('rtl').optional(),
  indent: z.number().optional(),
  shading: z.string().optional(),
  list: z.enum(['number', 'bullet']).optional(),
};
const cellShape = { columns: z.number(), rows: z.number() };
const Run = z.object(runShape);
const Block: z.ZodType<CoreReading['blocks'][number]> = z
  .lazy(() =>
    z.union([
      z.object({ ...textShape, runs: z.array(Run) }),
      z.object({
        kind: z.literal('table'),
        direction: z.literal('rtl').optional(),
        rest: z.string().optional(),
        rows: z.array(
          z.object({
            header: z.boolean(),
            cells: z.array(z.object({ ...cellShape, blocks: z.array(Block) })),
          }),
        ),
      }),
      z.object({ kind: z.literal('pageBreak'), drawn: z.literal(true).optional() }),
    ]),
  )
  .meta({ id: 'Block' }) as z.ZodType<CoreReading['blocks'][number]>;

/** Which part of a reading: `cursor` is the `next` of the part before, `limit` counts blocks, cells' too. */
export const ReadingQuery = z.strictObject({
  cursor: z.string().max(20).optional(),
  limit: z.coerce.number().int().min(1).max(10_000).default(2_000),
});

/** A version read for showing in the page, or a part of it with the notes it refers to. */
export const Reading = z
  .object({
    format: z.enum(['docx', 'text', 'markdown', 'table']),
    /** Of a text: the encoding it is written in. */
    encoding: z.enum(encodings).optional(),
    blocks: z.array(Block),
    margins: z.array(
      z.object({
        kind: z.enum(['header', 'footer']),
        pages: z.enum(['default', 'first', 'even']),
        section: z.number(),
        blocks: z.array(Block),
      }),
    ),
    notes: z.array(
      z.object({ number: z.number(), kind: z.enum(['footnote', 'endnote']), blocks: z.array(Block) }),
    ),
    comments: z
      .array(
        z.object({
          number: z.number(),
          author: z.string(),
          at: z.string().nullable(),
          blocks: z.array(Block),
        }),
      )
      .optional(),
    /** Tracked changes in the file that are not accepted; it is read as if they were. */
    pending: z.object({ inserted: z.number(), deleted: z.number() }).optional(),
    /** What the file holds and the page does not show, with how often. */
    unshown: z.array(z.object({ what: z.string(), count: z.number() })).optional(),
    /** What prints and is in no block, each with a hash of it: a comparison says where it differs. */
    beside: z.array(z.object({ what: z.string(), hash: z.string() })).optional(),
    next: z.string().nullable(),
    /** Blocks of the whole, those in cells not counted. */
    total: z.number(),
  })
  .meta({ id: 'Reading' });

const ComparedRunSchema = z.object({
  ...runShape,
  status: z.enum(['same', 'deleted', 'inserted']),
}) as z.ZodType<ComparedRun>;
const status = z.enum(['same', 'inserted', 'deleted', 'changed', 'moved', 'restyled', 'movedAway']);
const Compared: z.ZodType<ComparedBlock> = z
  .lazy(() =>
    z.union([
      z.object({
        ...textShape,
        status,
        change: z.number().nullable(),
        runs: z.array(ComparedRunSchema),
        joined: z.literal(true).optional(),
        markerWas: z.string().optional(),
        was: z.object({ ...textShape, runs: z.array(Run) }).optional(),
      }),
      z.object({
        kind: z.literal('table'),
        direction: z.literal('rtl').optional(),
        status,
        change: z.number().nullable(),
        rows: z.array(
          z.object({
            status,
            change: z.number().nullable(),
            header: z.boolean(),
            cells: z.array(
              z.object({
                ...cellShape,
                status: z.enum(['same', 'inserted', 'deleted']),
                blocks: z.array(Compared),
              }),
            ),
          }),
        ),
      }),
      z.object({ kind: z.literal('pageBreak'), status, change: z.number().nullable() }),
    ]),
  )
  .meta({ id: 'ComparedBlock' }) as z.ZodType<ComparedBlock>;

const where = z.enum(['field', 'header', 'footer', 'body', 'note', 'comment']);
const kind = z.enum(['inserted', 'deleted', 'changed', 'moved', 'restyled']);
/** What changed between two versions. */
export const Comparison = z
  .object({
    from: z.string(),
    to: z.string(),
    changes: z.array(
      z.object({
        id: z.number(),
        kind,
        where,
        what: z.string(),
        before: z.string(),
        after: z.string(),
        /** What of the formatting changed. */
        how: z.string(),
        /** The heading it stands under, and row and column in a table. */
        place: z.string(),
        wordsDeleted: z.number(),
        wordsInserted: z.number(),
      }),
    ),
    counts: z.object({
      inserted: z.number(),
      deleted: z.number(),
      changed: z.number(),
      moved: z.number(),
      restyled: z.number(),
      wordsDeleted: z.number(),
      wordsInserted: z.number(),
    }),
    /**
     * Whether no search for the shortest way to tell it was given up: it is where too little is
     * alike.
     */
    isShortest: z.boolean(),
    /** Tracked changes that are not accepted in each file: it is compared as if they were. */
    waiting: z.object({ older: z.number(), newer: z.number() }),
    parts: z.array(z.object({ where, label: z.string(), blocks: z.array(Compared) })),
  })
  .meta({ id: 'Comparison' });
export type Reading = z.output<typeof Reading>;
export type Comparison = z.output<typeof Comparison>;
