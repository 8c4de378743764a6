import { z } from 'zod';
import {
  ActAnswer,
  Comment,
  Id,
  Instant,
  Level,
  OriginKind,
  Paging,
  Person,
  Standing,
  State,
  Title,
  VersionName,
} from './common.ts';
import { DecidedRun } from './decidedRun.ts';

/** What a document is about, the broadest first: the path of its folder. */
export const Subjects = z.array(z.string().trim().min(1).max(60)).max(20);

/** What every document carries, in each of its versions. */
export const CommonFields = z.strictObject({
  title: Title,
  type: z.string().trim().max(60).optional(),
  subject: Subjects.optional(),
  reviewBy: z.iso.date().optional(),
});

/**
 * What is filled in under a field of a library's own: a text, a number, a date, yes or no, what was chosen
 * (one level or two), or a person, who is told with account and name and may be given by account alone.
 */
export const GivenValue = z
  .union([z.string().max(4000), z.number(), z.boolean(), z.array(z.string().max(60)).max(2), Person])
  .meta({
    description:
      "A value of a field of the library's own: text, number, date, yes or no, a person by account or as they are told, or the names chosen",
  });

/** The fields a document carries, those of the library's own among them; a change of them is a version. */
export const Fields = CommonFields.catchall(GivenValue);

/** Acts on one version that screens ask about. */
export const versionActs = [
  'thin',
  'recover',
  'shelter',
  'unshelter',
  'withdraw',
  'reinstate',
  'reschedule',
  'takeBack',
] as const;

/** A version the caller sees. */
export const Version = z
  .object({
    id: Id,
    label: z.string(),
    era: z.number(),
    major: z.number(),
    minor: z.number(),
    state: State,
    standing: Standing.nullable(),
    author: Person,
    at: Instant,
    comment: z.string(),
    /** `from` is the label of the version it was made of, where the caller sees that one. */
    origin: z.object({ kind: OriginKind, from: z.string().nullable() }),
    size: z.number(),
    sha256: z.string(),
    fileName: z.string(),
    mediaType: z.string(),
    words: z.number().nullable(),
    fields: Fields,
    sheltered: z.boolean(),
    thinned: z.object({ at: Instant, until: Instant, why: z.string() }).nullable(),
    /** That it was withdrawn, by whom and why in a sentence. */
    withdrawn: z.object({ at: Instant, why: z.string() }).nullable(),
    inForceFrom: Instant.nullable(),
    supersededAt: Instant.nullable(),
    /** Its text fell to under half of the version before that the caller sees. */
    textFell: z.boolean(),
    /** The approval run that ended last about it, or about the draft it was published from. */
    approval: DecidedRun.nullable(),
    /** Why the caller sees it. */
    why: z.string(),
    acts: z.record(z.enum(versionActs), ActAnswer),
  })
  .meta({ id: 'Version' });

/** Why a file that was taken in is not read in the page; null where it is, or where none of its type are. */
export const NotRead = z.string().nullable();

/** A version that was just made of a file. */
export const MadeVersion = Version.extend({ notRead: NotRead }).meta({ id: 'MadeVersion' });

/** A part of the versions the caller sees, newest first. */
export const VersionList = z.object({
  items: z.array(Version),
  next: z.string().nullable(),
  total: z.number(),
});

/** Which part of a list. */
export const VersionQuery = z.strictObject(Paging);

/** Which earlier version comes back, and as what. */
export const Restore = z.strictObject({
  from: VersionName,
  level: Level.optional(),
  comment: Comment.default(''),
  fields: z.boolean().default(false),
});

/** Publishes a draft, the latest unless another is named. */
export const Publish = z.strictObject({
  version: VersionName.optional(),
  comment: Comment.default(''),
  inForceFrom: Instant.optional(),
});

/** An act on one version's content, with a reason. */
export const ByHand = z.strictObject({ reason: Comment.default('') });

export type Fields = z.output<typeof Fields>;

export type FieldValue = z.output<typeof GivenValue>;

export type Version = z.output<typeof Version>;

export type MadeVersion = z.output<typeof MadeVersion>;

export type VersionList = z.output<typeof VersionList>;
