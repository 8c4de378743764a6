import { z } from 'zod';
import { Approval } from './approval.ts';
import {
  Account,
  ActAnswer,
  Comment,
  DocumentNumber,
  Flag,
  Id,
  Instant,
  Level,
  Paging,
  Person,
  State,
} from './common.ts';
import { Custody } from './custody.ts';
import { KeptReview } from './review.ts';
import { CommonFields, Fields, GivenValue, NotRead, Subjects, Version } from './versions.ts';

/** Fields and people of a new document. */
export const NewDocumentFields = CommonFields.extend({
  number: DocumentNumber.optional(),
  owner: Account.optional(),
  coAuthors: z.array(Account).max(50).optional(),
  approvers: z.array(Account).max(50).optional(),
}).catchall(GivenValue);
/** JSON in a field of a form. */
const JsonText = z
  .string()
  .max(100_000)
  .transform((text, context): unknown => {
    try {
      return JSON.parse(text);
    } catch {
      context.issues.push({ code: 'custom', message: 'must be JSON', input: text });
      return z.NEVER;
    }
  });
/** What is known already of a document to be. */
export const KnownFields = NewDocumentFields.partial().catchall(GivenValue);
/** What is known already of a document to be, in a field of a form. */
export const KnownFieldsText = JsonText.pipe(KnownFields);
/** A new document; its first content comes as the part `file`, or is a template's. */
export const NewDocumentForm = z.strictObject({
  fields: JsonText.pipe(NewDocumentFields),
  comment: Comment.default(''),
  level: Level.optional(),
  /** The template it begins with, in place of a file. */
  template: Id.optional(),
});

/** Acts on a document that screens ask about. */
export const acts = [
  'checkOut',
  'checkIn',
  'upload',
  'giveBack',
  'lift',
  'restore',
  'publish',
  'changeFields',
  'submit',
  'decide',
  'decideInPlace',
  'replaceApprover',
  'callBack',
  'review',
  'markTemplate',
  'limit',
  'distribute',
  'void',
  'unvoid',
] as const;

const StrandVersion = Version.pick({
  id: true,
  label: true,
  state: true,
  standing: true,
  at: true,
  origin: true,
  thinned: true,
  sheltered: true,
  inForceFrom: true,
  size: true,
  words: true,
});
/** A document as the caller sees it. */
export const Document = z
  .object({
    id: Id,
    number: z.string(),
    library: z.object({ id: Id, code: z.string(), name: z.string() }),
    title: z.string(),
    fileName: z.string(),
    fields: Fields,
    owner: Person,
    coAuthors: z.array(Person),
    inForce: Version.nullable(),
    /** The latest version the caller sees. */
    latest: Version,
    /** The newest versions the caller sees, oldest first, for the small Strand. */
    strand: z.array(StrandVersion),
    versions: z.number(),
    /** The type of documents that begin as a copy of it; null: it is no template. */
    templateFor: z.string().nullable(),
    /** Whether it is kept to named people and groups. */
    limited: z.boolean(),
    /** By whom, when and why it was voided; null where it stands. */
    voided: z.object({ by: Person, at: Instant, reason: z.string() }).nullable(),
    /**
     * Where the caller is to read what is in force: since when, and when they confirmed it. Null in lists,
     * and where they are not asked.
     */
    reading: z.object({ since: Instant, readAt: Instant.nullable() }).nullable(),
    /**
     * How many are to read what is in force, and how many have not confirmed it; for those who may say who
     * reads it, and auditors. Null in lists, and where nobody is asked.
     */
    readers: z.object({ total: z.number(), outstanding: z.number() }).nullable(),
    /** By when what is in force is to be reviewed; null: by no date. */
    reviewBy: z.iso.date().nullable(),
    /** The last review of what is in force; null in lists, and where there was none. */
    lastReview: KeptReview.nullable(),
    custody: Custody.nullable(),
    /**
     * Working copies set aside when their check-out was lifted, that wait to be brought in; for those who see
     * their base.
     */
    setAside: z.array(z.object({ holder: Person, base: z.string(), baseId: Id, at: Instant })),
    approval: Approval.nullable(),
    /** Who is asked to approve: the document's own approvers, else the library's. */
    approvers: z.array(Person),
    /**
     * The numbers the next version would get, for whoever may check in. Where approval is on,
     * `submittedAs` is the number a major one has until its approvers agree. `publishedAs` is the number
     * the latest version has once it is published.
     */
    toCome: z
      .object({
        minor: z.string().nullable(),
        major: z.string(),
        submittedAs: z.string().nullable(),
        publishedAs: z.string(),
        commentRequired: z.boolean(),
        /** Versions that wait for their moment, oldest first; what is published before takes their place. */
        scheduled: z.array(z.object({ label: z.string(), inForceFrom: Instant })),
      })
      .nullable(),
    acts: z.record(z.enum(acts), ActAnswer),
    /**
     * How many members see what is in force, how many the latest version, and how many would once that is in
     * force; for those who may change the document.
     */
    seenBy: z.object({ inForce: z.number(), latest: z.number(), latestInForce: z.number() }).nullable(),
  })
  .meta({ id: 'Document' });

/** A document that was just registered with a file. */
export const MadeDocument = Document.extend({ notRead: NotRead }).meta({ id: 'MadeDocument' });
/** A part of the Register. */
export const DocumentList = z.object({
  items: z.array(Document),
  next: z.string().nullable(),
  total: z.number(),
  /** Whether `total` is an estimate, of two figures: counting them would mean reading the library. */
  about: z.boolean(),
});

/** The names on a path of subjects; null where it is none. */
function readPath(path: string): string[] | null {
  try {
    const names = path.split('/').map(decodeURIComponent);
    return Subjects.safeParse(names).success ? names : null;
  } catch (error) {
    if (error instanceof URIError) return null;
    throw error;
  }
}

/** The first subjects of documents, in their order, as segments of a path (RFC 3986, section 3.3). */
export const SubjectPath = z
  .string()
  .max(4000)
  .refine(
    (path) => readPath(path) !== null,
    'Give up to 20 names one after another, each percent-encoded, with / between them.',
  )
  .meta({ description: 'The first subjects in their order, each percent-encoded, joined by `/`' });
/** Names of subjects as a path. */
export const subjectPath = (names: readonly string[]): string => names.map(encodeURIComponent).join('/');
/** The names on a path of subjects; what is none is one name, which the server refuses. */
export const namesOnPath = (path: string): string[] => readPath(path) ?? [path];

/** Which part of the subjects that come next on a path; without one, of those that stand first. */
export const SubjectQuery = z.strictObject({ path: SubjectPath.optional(), ...Paging });
/** Subjects that come next on a path, in the latest versions the caller sees. */
export const SubjectList = z.object({
  items: z.array(z.object({ name: z.string(), path: z.string() })),
  next: z.string().nullable(),
});

/** Which documents of the Register, and in which order. */
export const DocumentQuery = z.strictObject({
  q: z.string().trim().max(200).optional().meta({
    description: 'Beginnings of words in number, title, type, subject or comment; all must be found',
  }),
  state: State.optional(),
  heldBy: z
    .string()
    .trim()
    .max(60)
    .optional()
    .meta({ description: '`anyone`, `nobody`, `me` or an account' }),
  owner: Account.optional(),
  subject: z.string().trim().max(60).optional(),
  path: SubjectPath.optional(),
  overdue: Flag.optional(),
  voided: Flag.optional().meta({
    description: 'Only voided documents, which are left out otherwise; for auditors and controllers',
  }),
  review: z.enum(['due', 'passed']).optional().meta({
    description: '`due`: to be reviewed within 30 days, or past that date; `passed`: past it',
  }),
  sort: z.enum(['number', 'title', 'changed']).default('number'),
  ...Paging,
});
/**
 * People of a document are no fields of its versions: changing them alone makes none, and is recorded in the
 * Ledger.
 */
export const DocumentPatch = z.strictObject({
  /** What is left out stays; null empties a field. */
  fields: NewDocumentFields.omit({ number: true })
    .partial()
    .extend({
      type: CommonFields.shape.type.nullable(),
      reviewBy: CommonFields.shape.reviewBy.nullable(),
    })
    .catchall(GivenValue.nullable()),
  comment: Comment.default(''),
  level: Level.optional(),
});
/** Why a document is voided, or stands again. */
export const Voiding = z.strictObject({ reason: Comment.default('') });
/** The document's number and library, for whoever may not see it any more. */
export const VoidAnswer = Document.pick({ id: true, number: true, library: true, voided: true });
export type VoidAnswer = z.output<typeof VoidAnswer>;
export type KnownFields = z.output<typeof KnownFields>;
export type Document = z.output<typeof Document>;

export type MadeDocument = z.output<typeof MadeDocument>;
export type DocumentList = z.output<typeof DocumentList>;
export type SubjectList = z.output<typeof SubjectList>;
export type SubjectQuery = z.output<typeof SubjectQuery>;
export type DocumentQuery = z.output<typeof DocumentQuery>;
export type Act = (typeof acts)[number];
