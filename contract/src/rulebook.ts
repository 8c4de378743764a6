import { fieldKinds } from '@polychron/core';
import { z } from 'zod';
import { Id, Instant, NumberingRule, SightRole } from './common.ts';

const limit = z.number().int().min(0).nullable();

/** A field of a library's own, beside title, type, subject and review date. */
export const OwnField = z
  .strictObject({
    name: z.string(),
    kind: z.enum(fieldKinds),
    /** What there is to choose, of a choice, and what each is parted into. */
    choices: z.array(z.strictObject({ name: z.string(), within: z.array(z.string()) })),
    /** Types of documents that need it; `all` of them. */
    requiredFor: z.union([z.literal('all'), z.array(z.string())]),
    /** A change makes no version and is recorded in the Ledger. */
    administrative: z.boolean(),
  })
  .meta({ id: 'OwnField' });

/** A library's rules. `null` means all, or none, as the rule's name says. */
export const Rulebook = z.strictObject({
  numbering: NumberingRule,
  /** How documents are numbered, by type; null: all others. */
  numberPatterns: z.array(z.strictObject({ type: z.string().nullable(), pattern: z.string() })),
  /** Fields of the library's own. */
  fields: z.array(OwnField),
  custody: z.enum(['required', 'optional']),
  custodyDays: limit,
  saves: z.enum(['steps', 'drafts']),
  /** What becomes of what a program saved, once it is closed there: its holder is asked, or it is a draft. */
  closedInProgram: z.enum(['asks', 'checksIn']),
  checkInComment: z.enum(['required', 'optional']),
  approval: z.strictObject({
    on: z.boolean(),
    mode: z.enum(['serial', 'together', 'anyOne']),
    authorMayApprove: z.boolean(),
    /** Whether a controller may decide in the place of those asked, with a reason. */
    controllersDecide: z.boolean(),
    approvers: z.array(z.string()),
    publishing: z.enum(['onApproval', 'byOwner']),
  }),
  sight: z.strictObject({
    draft: z.array(SightRole),
    inApproval: z.array(SightRole),
    rejected: z.array(SightRole),
  }),
  readersSeePast: z.boolean(),
  /** What is written into issued copies, by the name it has in the library's files. */
  controlNames: z.strictObject({
    number: z.string(),
    title: z.string(),
    version: z.string(),
    status: z.string(),
    owner: z.string(),
    approvers: z.string(),
    issueDate: z.string(),
    reviewDate: z.string(),
  }),
  keep: z.strictObject({
    published: limit,
    drafts: z.strictObject({
      stay: z.string().meta({
        description:
          '`all`, `withTheirVersion`, `untilPublished`, or an ISO 8601 duration after the version they led to is published',
      }),
      newest: limit,
    }),
    spareYoungerThan: z.string().nullable().meta({ description: 'ISO 8601 duration' }),
  }),
  graceDays: z.number().int(),
  maxFileBytes: limit,
  allowanceBytes: limit,
});

const anything = <S extends z.ZodRawShape>(shape: S) =>
  z.strictObject(
    Object.fromEntries(Object.keys(shape).map((name) => [name, z.unknown().optional()])) as {
      [K in keyof S]: z.ZodOptional<z.ZodUnknown>;
    },
  );

/**
 * Rules somebody asks for. Only their names are checked here; core refuses values that make no sense, each
 * with a code of its own. Missing ones are the defaults in a new library, and stay as they are in one that is
 * there.
 */
export const RulebookChoices = z
  .strictObject({
    ...anything(Rulebook.shape).shape,
    approval: anything(Rulebook.shape.approval.shape).optional(),
    sight: anything(Rulebook.shape.sight.shape).optional(),
    controlNames: anything(Rulebook.shape.controlNames.shape).optional(),
    keep: anything(Rulebook.shape.keep.shape)
      .extend({ drafts: anything(Rulebook.shape.keep.shape.drafts.shape).optional() })
      .optional(),
  })
  .meta({ description: 'Rules by name, as in the answer of a Rulebook; all may be left out' });

/** Rules to be set, with the reason for it. */
export const NewRules = RulebookChoices.extend({ reason: z.string().max(1_000_000).default('') });

/** One rule that differs, by its path. */
export const RuleChange = z.object({ rule: z.string(), from: z.unknown(), to: z.unknown() });
/** A revision of the Rulebook. */
export const RulebookView = z.object({
  revision: z.number(),
  at: Instant,
  by: z.string(),
  reason: z.string(),
  rulebook: Rulebook,
  /** What it changed against the revision before; empty for the first. */
  changes: z.array(RuleChange),
  /** The thinning that its limits called for. */
  job: Id.nullable(),
});
/** A part of the revisions, newest first. */
export const RulebookHistory = z.object({
  items: z.array(RulebookView),
  next: z.string().nullable(),
  total: z.number(),
});

const Preset = z.object({ published: z.number(), why: z.string() });
/** How often the library publishes, and limits made of that. */
export const PaceView = z.object({
  documents: z.number(),
  publications: z.number(),
  busiest: z.number(),
  median: z.number(),
  presets: z.array(Preset),
});

export type OwnField = z.output<typeof OwnField>;
export type Rulebook = z.output<typeof Rulebook>;
export type RulebookView = z.output<typeof RulebookView>;
export type RulebookHistory = z.output<typeof RulebookHistory>;
export type PaceView = z.output<typeof PaceView>;
