import { z } from 'zod';
import { decisions } from '@polychron/core';
import { Comment, Instant, Person, VersionName } from './common.ts';
import { Publish } from './versions.ts';

const Post = z.object({
  person: Person,
  decision: z.enum(decisions).nullable(),
  at: Instant.nullable(),
  comment: z.string(),
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
  /**
   * What the caller's approval would come to: who is asked then, or what is published and from when; null
   * where they cannot decide.
   */
  ifApproved: z
    .object({
      asked: z.array(Person),
      published: z.object({ label: z.string(), inForceFrom: Instant.nullable() }).nullable(),
    })
    .nullable(),
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
});

export type Approval = z.output<typeof Approval>;
