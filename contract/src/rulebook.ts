import { z } from 'zod';
import { Id, Instant, NumberingRule, Paging, SightStep } from './common.ts';

const limit = z.number().int().min(0).nullable();

/** A library's rules. `null` means all, or none, as the rule's name says. */
export const Rulebook = z.strictObject({
  numbering: NumberingRule,
  custody: z.enum(['required', 'optional']),
  custodyDays: limit,
  saves: z.enum(['steps', 'drafts']),
  checkInComment: z.enum(['required', 'optional']),
  approval: z.strictObject({
    on: z.boolean(),
    mode: z.enum(['serial', 'together', 'anyOne']),
    authorMayApprove: z.boolean(),
    approvers: z.array(z.string()),
    publishing: z.enum(['onApproval', 'byOwner']),
  }),
  sight: z.strictObject({ draft: SightStep, inApproval: SightStep, rejected: SightStep }),
  readersSeePast: z.boolean(),
  keep: z.strictObject({
    published: limit,
    draftsOutlive: limit,
    draftsPerMajor: limit,
    spareYoungerThan: z.string().nullable().meta({ description: 'ISO 8601 duration' }),
  }),
  graceDays: z.number().int(),
  maxFileBytes: limit,
  allowanceBytes: limit,
  fields: z.array(z.string()),
});

const anything = <S extends z.ZodRawShape>(shape: S) =>
  z.strictObject(Object.fromEntries(Object.keys(shape).map((name) => [name, z.unknown().optional()])) as { [K in keyof S]: z.ZodOptional<z.ZodUnknown> });

/**
 * Rules somebody asks for. Only their names are checked here; core refuses values that make no sense, each with a code of its own. Missing
 * ones are the defaults in a new library, and stay as they are in one that is there.
 */
export const RulebookChoices = z.strictObject({
  ...anything(Rulebook.shape).shape,
  approval: anything(Rulebook.shape.approval.shape).optional(),
  sight: anything(Rulebook.shape.sight.shape).optional(),
  keep: anything(Rulebook.shape.keep.shape).optional(),
}).meta({ description: 'Rules by name, as in the answer of a Rulebook; all may be left out' });

export const NewRules = RulebookChoices.extend({ reason: z.string().max(1_000_000).default('') });

export const RuleChange = z.object({ rule: z.string(), from: z.unknown(), to: z.unknown() });
export const RulebookView = z.object({
  revision: z.number(), at: Instant, by: z.string(), reason: z.string(), rulebook: Rulebook,
  /** What it changed against the revision before; empty for the first. */
  changes: z.array(RuleChange),
  /** The thinning that its limits called for. */
  job: Id.nullable(),
});
export const RulebookHistory = z.object({ items: z.array(RulebookView), next: z.string().nullable(), total: z.number() });

const DocumentName = z.object({ id: Id, number: z.string(), title: z.string() });
const ToCome = z.object({ minor: z.string().nullable(), major: z.string(), submittedAs: z.string().nullable() });
const Shift = z.object({ account: z.string(), name: z.string(), versions: z.number(), documents: z.number() });
const NumberItem = z.object({ document: DocumentName, now: ToCome, then: ToCome, becomes: z.string().nullable() });

export const ConsequencesQuery = z.strictObject({
  list: z.string().max(80).regex(/^(thinned|numbers|custody|approvals|(gains|losses):.+)$/, 'thinned, numbers, custody, approvals, gains:ACCOUNT or losses:ACCOUNT').optional()
    .meta({ description: 'The list to page through; without it the beginning of every list comes' }),
  documents: z.string().max(20_000).optional().meta({ description: 'Ids, separated by commas: narrows the thinned items, not their counts' }),
  cursor: z.string().max(20).optional(),
  limit: z.coerce.number().int().min(1).max(1000).default(200),
});
/** What proposed rules would do. Counts are of the whole library; items come in parts. */
export const Consequences = z.object({
  /** The revision the proposal was held against. */
  revision: z.number(), changes: z.array(RuleChange),
  documents: z.number(), versions: z.number(), bytesKept: z.number(),
  thinned: z.object({
    versions: z.number(), documents: z.number(), bytes: z.number(),
    items: z.array(z.object({ document: DocumentName, versionId: Id, label: z.string(), size: z.number(), rule: z.enum(['published', 'draftsOutlive', 'draftsPerMajor']) })),
  }),
  sight: z.object({
    gains: z.array(Shift), losses: z.array(Shift),
    /** Versions of the person whose list was asked for. */
    items: z.array(z.object({ document: DocumentName, versionId: Id, label: z.string(), state: z.string() })),
  }),
  custody: z.array(NumberItem.extend({ holder: z.string(), base: z.string() })),
  approvals: z.array(z.object({ document: DocumentName, label: z.string(), waitingFor: z.array(z.string()) })),
  numbers: z.array(NumberItem),
  totals: z.object({ custody: z.number(), approvals: z.number(), numbers: z.number() }),
  notes: z.array(z.object({ code: z.string(), text: z.string() })),
  /** The next part of the list that was asked for. */
  next: z.string().nullable(),
});

/** Long work under way: how far it is, and its result once it has one. */
export const Job = z.object({
  id: Id, kind: z.enum(['consequences', 'thinning']), state: z.enum(['queued', 'running', 'done', 'cancelled', 'superseded', 'failed']),
  done: z.number(), total: z.number().nullable(), library: Id,
  /** Versions a thinning has thinned so far, and their bytes. */
  thinned: z.object({ versions: z.number(), bytes: z.number() }).nullable(),
  result: Consequences.nullable(),
  problem: z.object({ code: z.string(), detail: z.string() }).nullable(),
});

const Preset = z.object({ published: z.number(), why: z.string() });
export const PaceView = z.object({
  documents: z.number(), publications: z.number(), busiest: z.number(), median: z.number(),
  own: z.array(Preset), thumb: z.array(Preset),
});

export const ShelfQuery = z.strictObject(Paging);
export const ShelfItem = z.object({
  document: DocumentName, versionId: Id, label: z.string(), state: z.string(), size: z.number(), comment: z.string(),
  thinned: z.object({ at: Instant, until: Instant, why: z.string() }),
});
export const Shelf = z.object({ items: z.array(ShelfItem), next: z.string().nullable(), total: z.number(), bytes: z.number(), mayRecover: z.boolean() });

/** Why someone sees, or does not see, versions of a document. */
export const VisibilityQuery = z.strictObject({ version: z.string().max(64).optional(), cursor: z.string().max(64).optional(), limit: z.coerce.number().int().min(1).max(50).default(12) });
export const Visibility = z.object({
  /** Newest first. */
  versions: z.array(z.object({ id: Id, label: z.string(), state: z.string(), standing: z.string().nullable() })),
  members: z.array(z.object({ account: z.string(), name: z.string(), roles: z.array(z.string()), sees: z.array(z.object({ version: z.string(), sees: z.boolean(), why: z.string() })) })),
  next: z.string().nullable(), total: z.number(),
});

export type Rulebook = z.output<typeof Rulebook>;
export type RulebookView = z.output<typeof RulebookView>;
export type RulebookHistory = z.output<typeof RulebookHistory>;
export type ConsequencesQuery = z.output<typeof ConsequencesQuery>;
export type Consequences = z.output<typeof Consequences>;
export type Job = z.output<typeof Job>;
export type PaceView = z.output<typeof PaceView>;
export type Shelf = z.output<typeof Shelf>;
export type ShelfItem = z.output<typeof ShelfItem>;
export type Visibility = z.output<typeof Visibility>;
