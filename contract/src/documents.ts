import { z } from 'zod';
import { checkInQuestions, decisions } from '@polychron/core';
import {
  Account, Comment, DocumentNumber, Flag, Id, Instant, Level, List, OriginKind, Paging, Person, Standing, State, Title, VersionName,
} from './common.ts';

/** The fields a document carries; a change of them is a version. */
export const Fields = z.strictObject({
  title: Title,
  type: z.string().trim().max(60).optional(),
  subject: z.array(z.string().trim().min(1).max(60)).max(20).optional(),
  reviewBy: z.iso.date().optional(),
});
export const NewDocumentFields = Fields.extend({
  number: DocumentNumber.optional(),
  owner: Account.optional(),
  coAuthors: z.array(Account).max(50).optional(),
  approvers: z.array(Account).max(50).optional(),
});
export const NewDocumentForm = z.strictObject({
  fields: z.string().max(100_000).transform((text, context): unknown => {
    try { return JSON.parse(text); } catch {
      context.issues.push({ code: 'custom', message: 'must be JSON', input: text });
      return z.NEVER;
    }
  }).pipe(NewDocumentFields),
  comment: Comment.default(''),
  level: Level.default('minor'),
});

/** Whether the caller may do an act now; where not, why not. */
export const ActAnswer = z.object({ allowed: z.boolean(), why: z.string().nullable() });
export const versionActs = ['thin', 'recover', 'shelter', 'unshelter'] as const;

export const Version = z.object({
  id: Id, label: z.string(), era: z.number(), major: z.number(), minor: z.number(),
  state: State, standing: Standing.nullable(), author: Person, at: Instant, comment: z.string(),
  /** `from` is the label of the version it was made of, where the caller sees that one. */
  origin: z.object({ kind: OriginKind, from: z.string().nullable() }),
  size: z.number(), sha256: z.string(), fileName: z.string(), mediaType: z.string(), words: z.number().nullable(),
  fields: Fields, sheltered: z.boolean(), thinned: z.object({ at: Instant, until: Instant, why: z.string() }).nullable(),
  inForceFrom: Instant.nullable(), supersededAt: Instant.nullable(),
  /** Its text fell to under half of the version before that the caller sees. */
  textFell: z.boolean(),
  /** Why the caller sees it. */
  why: z.string(),
  acts: z.record(z.enum(versionActs), ActAnswer),
});
export const VersionList = z.object({ items: z.array(Version), next: z.string().nullable(), total: z.number() });

export const Custody = z.object({
  holder: Person, mine: z.boolean(), since: Instant,
  /** The rest only for those who see the base version. */
  until: Instant.nullable(), reason: z.string().nullable(), base: z.string().nullable(), saves: z.number(), lastSavedAt: Instant.nullable(),
  overdue: z.boolean(),
  /** The working copy, for its holder: null while nothing was saved. */
  workingCopy: z.object({ fileName: z.string(), size: z.number(), sha256: z.string() }).nullable(),
});

export const acts = ['checkOut', 'checkIn', 'upload', 'discard', 'lift', 'restore', 'publish', 'changeFields', 'submit', 'decide', 'callBack'] as const;

const Post = z.object({ person: Person, decision: z.enum(decisions).nullable(), at: Instant.nullable(), comment: z.string() });
/** The asking of approvers about the version in approval, for those who see that one. */
export const Approval = z.object({
  version: z.string(), mode: z.enum(['serial', 'together', 'anyOne']), submittedBy: Person, at: Instant, comment: z.string(), inForceFrom: Instant.nullable(),
  posts: z.array(Post), waitingFor: z.array(Person),
  /** Whether the last approval publishes the version, and the number it is published as. */
  publishes: z.boolean(), becomes: z.string(),
});

const StrandVersion = Version.pick({ id: true, label: true, state: true, standing: true, at: true, origin: true, thinned: true, sheltered: true, inForceFrom: true, size: true, words: true });
export const Document = z.object({
  id: Id, number: z.string(), library: z.object({ id: Id, code: z.string(), name: z.string() }),
  title: z.string(), fileName: z.string(), fields: Fields, owner: Person, coAuthors: z.array(Person),
  inForce: Version.nullable(),
  /** The latest version the caller sees. */
  latest: Version,
  /** The newest versions the caller sees, oldest first, for the small Strand. */
  strand: z.array(StrandVersion), versions: z.number(),
  custody: Custody.nullable(),
  /** Working copies set aside when their check-out was lifted, that wait to be brought in; for those who see their base. */
  setAside: z.array(z.object({ holder: Person, base: z.string(), baseId: Id, at: Instant })),
  approval: Approval.nullable(),
  /** Who is asked to approve: the document's own approvers, else the library's. */
  approvers: z.array(Person),
  /**
   * The numbers the next version would get, for whoever may check in. Where approval is on, `submittedAs` is the number a major one has until its
   * approvers agree.
   */
  toCome: z.object({ minor: z.string().nullable(), major: z.string(), submittedAs: z.string().nullable(), commentRequired: z.boolean() }).nullable(),
  acts: z.record(z.enum(acts), ActAnswer),
  /** How many members see what is in force, and how many the latest version; for those who may change the document. */
  seenBy: z.object({ inForce: z.number(), latest: z.number() }).nullable(),
});
export const DocumentList = z.object({ items: z.array(Document), next: z.string().nullable(), total: z.number() });

export const DocumentQuery = z.strictObject({
  q: z.string().trim().max(200).optional(),
  state: State.optional(),
  heldBy: z.string().trim().max(60).optional().meta({ description: '`anyone`, `nobody`, `me` or an account' }),
  owner: Account.optional(),
  subject: z.string().trim().max(60).optional(),
  overdue: Flag.optional(),
  sort: z.enum(['number', 'title', 'changed']).default('number'),
  ...Paging,
});
export const VersionQuery = z.strictObject(Paging);

export const CheckOut = z.strictObject({ reason: z.string().trim().max(1_000_000).optional(), until: Instant.optional() });
export const Prolong = z.strictObject({ until: Instant });
export const CheckInForm = z.strictObject({
  comment: Comment.default(''),
  level: Level,
  keepCheckedOut: Flag.default(false),
  keepFileName: Flag.default(false),
  confirm: List.pipe(z.array(z.enum(checkInQuestions))).default([]),
});
export const Restore = z.strictObject({ from: VersionName, level: Level, comment: Comment.default(''), fields: z.boolean().default(false) });
export const Publish = z.strictObject({ version: VersionName.optional(), comment: Comment.default(''), inForceFrom: Instant.optional() });
export const Submit = Publish;
export const CallBack = z.strictObject({ comment: Comment.default('') });
export const Decide = z.strictObject({ version: VersionName, decision: z.enum(decisions), comment: Comment.default('') });
export const ByHand = z.strictObject({ reason: Comment.default('') });
/** People of a document are no fields of its versions: changing them alone makes none, and is recorded in the Ledger. */
export const DocumentPatch = z.strictObject({
  fields: NewDocumentFields.omit({ number: true }).partial(), comment: Comment.default(''), level: Level.optional(),
});
export const UploadForm = CheckInForm.omit({ keepCheckedOut: true }).extend({ basedOn: VersionName });

export const Save = z.object({ position: z.number(), at: Instant, fileName: z.string(), size: z.number(), sha256: z.string() });
export const SaveList = z.object({ items: z.array(Save), next: z.null(), total: z.number() });

export type Save = z.output<typeof Save>;
export type Fields = z.output<typeof Fields>;
export type Version = z.output<typeof Version>;
export type VersionList = z.output<typeof VersionList>;
export type Approval = z.output<typeof Approval>;
export type Custody = z.output<typeof Custody>;
export type Document = z.output<typeof Document>;
export type DocumentList = z.output<typeof DocumentList>;
export type DocumentQuery = z.output<typeof DocumentQuery>;
export type Act = (typeof acts)[number];
