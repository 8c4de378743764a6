import { z } from 'zod';
import { NumberingRule, SightStep } from './common.ts';

const days = z.number().int().min(1).max(3650);
const limit = z.number().int().min(0).max(1_000_000).nullable();
const bytes = z.number().int().min(1).max(Number.MAX_SAFE_INTEGER).nullable();

export const Rulebook = z.strictObject({
  numbering: NumberingRule,
  custody: z.enum(['required', 'optional']),
  custodyDays: days.nullable(),
  saves: z.enum(['steps', 'drafts']),
  checkInComment: z.enum(['required', 'optional']),
  approval: z.strictObject({
    on: z.boolean(),
    mode: z.enum(['serial', 'together', 'anyOne']),
    authorMayApprove: z.boolean(),
    approvers: z.array(z.string().min(1).max(60)).max(50),
    publishing: z.enum(['onApproval', 'byOwner']),
  }),
  sight: z.strictObject({ draft: SightStep, inApproval: SightStep, rejected: SightStep }),
  readersSeePast: z.boolean(),
  keep: z.strictObject({
    published: limit,
    draftsOutlive: limit,
    draftsPerMajor: z.number().int().min(1).max(1_000_000).nullable(),
    spareYoungerThan: z.iso.duration().nullable(),
  }),
  graceDays: z.number().int().min(0).max(3650),
  maxFileBytes: bytes,
  allowanceBytes: bytes,
  fields: z.array(z.string().min(1).max(60)).max(50),
});

/** Rules a library sets; missing ones are the defaults. */
export const RulebookChoices = z.strictObject({
  ...Rulebook.partial().shape,
  approval: Rulebook.shape.approval.partial().optional(),
  sight: Rulebook.shape.sight.partial().optional(),
  keep: Rulebook.shape.keep.partial().optional(),
});
