import { z } from 'zod';
import { keepRules } from '@polychron/core';
import { DocumentName, Id } from './common.ts';
import { RuleChange } from './rulebook.ts';

const ToCome = z.object({
  minor: z.string().nullable(),
  major: z.string(),
  submittedAs: z.string().nullable(),
});

const Shift = z.object({
  account: z.string(),
  name: z.string(),
  versions: z.number(),
  documents: z.number(),
});

const NumberItem = z.object({
  document: DocumentName,
  now: ToCome,
  then: ToCome,
  becomes: z.string().nullable(),
});

/** Which items of the consequences. */
export const ConsequencesQuery = z.strictObject({
  list: z
    .string()
    .max(80)
    .regex(
      /^(thinned|numbers|custody|approvals|(gains|losses):.+)$/,
      'thinned, numbers, custody, approvals, gains:ACCOUNT or losses:ACCOUNT',
    )
    .optional()
    .meta({ description: 'The list to page through; without it the beginning of every list comes' }),
  documents: z
    .string()
    .max(20_000)
    .optional()
    .meta({ description: 'Ids, separated by commas: narrows the thinned items, not their counts' }),
  cursor: z.string().max(20).optional(),
  limit: z.coerce.number().int().min(1).max(1000).default(200),
});

/** What proposed rules would do. Counts are of the whole library; items come in parts. */
export const Consequences = z.object({
  /** The revision the proposal was held against. */
  revision: z.number(),
  changes: z.array(RuleChange),
  documents: z.number(),
  versions: z.number(),
  bytesKept: z.number(),
  thinned: z.object({
    versions: z.number(),
    documents: z.number(),
    bytes: z.number(),
    items: z.array(
      z.object({
        document: DocumentName,
        versionId: Id,
        label: z.string(),
        size: z.number(),
        rule: z.enum(keepRules),
      }),
    ),
  }),
  sight: z.object({
    gains: z.array(Shift),
    losses: z.array(Shift),
    /** Versions of the person whose list was asked for. */
    items: z.array(z.object({ document: DocumentName, versionId: Id, label: z.string(), state: z.string() })),
  }),
  custody: z.array(NumberItem.extend({ holder: z.string(), base: z.string() })),
  approvals: z.array(
    z.object({ document: DocumentName, label: z.string(), waitingFor: z.array(z.string()) }),
  ),
  numbers: z.array(NumberItem),
  totals: z.object({ custody: z.number(), approvals: z.number(), numbers: z.number() }),
  notes: z.array(z.object({ code: z.string(), text: z.string() })),
  /** The next part of the list that was asked for. */
  next: z.string().nullable(),
});

/** Long work under way: how far it is, and its result once it has one. */
export const Job = z.object({
  id: Id,
  kind: z.enum(['consequences', 'thinning', 'handOver']),
  state: z.enum(['queued', 'running', 'done', 'cancelled', 'superseded', 'failed']),
  done: z.number(),
  total: z.number().nullable(),
  /** Null where it is about several. */
  library: Id.nullable(),
  /** Versions a thinning has thinned so far, and their bytes. */
  thinned: z.object({ versions: z.number(), bytes: z.number() }).nullable(),
  result: Consequences.nullable(),
  problem: z.object({ code: z.string(), detail: z.string() }).nullable(),
});

export type ConsequencesQuery = z.output<typeof ConsequencesQuery>;

export type Consequences = z.output<typeof Consequences>;

export type Job = z.output<typeof Job>;
