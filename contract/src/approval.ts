import { z } from 'zod';
import { decisions } from '@polychron/core';
import {
  Account,
  Comment,
  DocumentInLibrary,
  Instant,
  Paging,
  Person,
  State,
  VersionName,
} from './common.ts';
import { Publish } from './versions.ts';

const Post = z.object({
  person: Person,
  decision: z.enum(decisions).nullable(),
  at: Instant.nullable(),
  comment: z.string(),
  /** Whether a controller decided here in the place of those who were asked. */
  inPlace: z.boolean(),
});

/** What somebody's approval would come to: who is asked then, or what is published and from when. */
const Outlook = z.object({
  asked: z.array(Person),
  published: z.object({ label: z.string(), inForceFrom: Instant.nullable() }).nullable(),
  /** Scheduled versions that then never come into force. */
  never: z.array(z.string()),
});

/** The asking of approvers about the version in approval, for those who see that one. */
export const Approval = z.object({
  version: z.string(),
  mode: z.enum(['serial', 'together', 'anyOne']),
  submittedBy: Person,
  at: Instant,
  comment: z.string(),
  inForceFrom: Instant.nullable(),
  posts: z.array(Post),
  waitingFor: z.array(Person),
  /** Whether the last approval publishes the version, and the number it is published as. */
  publishes: z.boolean(),
  becomes: z.string(),
  /** What the caller's approval would come to; null where they cannot decide. */
  ifApproved: Outlook.nullable(),
  /** The same in the place of those asked; null where the caller cannot decide so. */
  ifApprovedInPlace: Outlook.nullable(),
});

/** Asks the approvers about a draft, the latest unless another is named. */
export const Submit = Publish;

/** Takes back a submission. */
export const CallBack = z.strictObject({ comment: Comment.default('') });

/** An approver's word about the version in approval. */
export const Decide = z.strictObject({
  version: VersionName,
  decision: z.enum(decisions),
  comment: Comment.default(''),
  /** Whether a controller decides in the place of those asked; the comment is the reason. */
  inPlace: z.boolean().default(false),
});

/** Puts one person in the place of another who was asked and has not decided. */
export const ReplaceApprover = z.strictObject({
  from: Account,
  to: Account,
  reason: Comment.default(''),
});

/** What waits for the caller's decision; or what is out for others' decision, and what came of it. */
export const approvalParts = ['toDecide', 'out'] as const;
export const ApprovalQuery = z.strictObject({
  part: z.enum(approvalParts).default('toDecide'),
  /** Of what is out: what waits, what is approved and not yet published, what was rejected. */
  state: State.extract(['inApproval', 'approved', 'rejected']).default('inApproval'),
  ...Paging,
});

/** A version that waits for a decision, or that was decided about. */
const ApprovalItem = z.object({
  document: DocumentInLibrary,
  version: z.string(),
  state: State,
  /** What is in force meanwhile, as the caller sees it. */
  inForce: z.string().nullable(),
  submittedBy: Person,
  at: Instant,
  comment: z.string(),
  posts: z.array(
    z.object({
      ...Person.shape,
      decision: z.enum(decisions).nullable(),
      at: Instant.nullable(),
      comment: z.string(),
      inPlace: z.boolean(),
    }),
  ),
  waitingFor: z.array(Person),
  /** Members who see the version once it is in force. */
  readers: z.number(),
});

/** A part of what waits, the one that waits longest first; of what was decided, the last first. */
export const ApprovalList = z.object({
  items: z.array(ApprovalItem),
  next: z.string().nullable(),
  total: z.number(),
});

export type ApprovalQuery = z.output<typeof ApprovalQuery>;

export type ApprovalList = z.output<typeof ApprovalList>;

export type Approval = z.output<typeof Approval>;
