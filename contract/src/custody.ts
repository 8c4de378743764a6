import { z } from 'zod';
import { checkInQuestions, mergeChoices } from '@polychron/core';
import { Comment, Flag, Id, Instant, Level, List, Paging, Person, VersionName } from './common.ts';
import { Document, NewDocumentFields, Save } from './documents.ts';

export const Lift = z.strictObject({ reason: Comment.default('') });
export const MarkedQuery = z.strictObject({ marked: Flag.optional().meta({ description: 'With the version it is taken from written into it (.docx, .xlsx, .odt); without it the bytes as they were checked in' }) });
export const SaveQuery = z.strictObject({
  sitting: z.string().regex(/^[\w-]{1,40}$/).optional().meta({ description: 'Given by an editor that saves by itself: such saves of one sitting are one step' }),
});

/** One time a document was held. Base, end, reasons and what became of it only for those who see the base. */
export const CustodyPeriod = z.object({
  holder: Person, since: Instant, until: Instant.nullable(), reason: z.string().nullable(), base: z.string().nullable(),
  endedAt: Instant.nullable(), how: z.enum(['checkedIn', 'discarded', 'lifted']).nullable(), endedBy: Person.nullable(), endReason: z.string().nullable(), version: z.string().nullable(),
});
export const CustodyHistory = z.object({ items: z.array(CustodyPeriod), next: z.string().nullable(), total: z.number() });

const DocumentName = z.object({ id: Id, number: z.string(), title: z.string(), library: z.object({ id: Id, code: z.string(), name: z.string() }) });

/** A file on somebody's Desk: an arrival, a loose copy, or what was set aside when a check-out was lifted. */
export const DeskFile = z.object({
  id: Id, kind: z.enum(['arrival', 'looseCopy', 'setAside']), fileName: z.string(), size: z.number(), sha256: z.string(), mediaType: z.string(), words: z.number().nullable(),
  createdAt: Instant, changedAt: Instant,
  /** The document it was taken from, or by its mark says it was, where the caller sees that one; with the version, and the latest they see. */
  document: DocumentName.nullable(), base: z.string().nullable(), latest: z.string().nullable(),
  /** Why the check-out was lifted, and by whom. */
  reason: z.string().nullable(), by: Person.nullable(),
  /** Earlier saves, of a copy set aside. */
  saves: z.array(Save),
  /** Whether it is a text that can be edited in the page. */
  editable: z.boolean(),
});
export const DeskFileForm = z.strictObject({});
export const LooseCopy = z.strictObject({});

export const Notice = z.object({ id: z.string(), kind: z.enum(['overdue', 'lifted', 'rejected']), at: Instant, document: DocumentName, text: z.string(), read: z.boolean() });
export const NoticeList = z.object({ items: z.array(Notice), next: z.string().nullable(), total: z.number(), unread: z.number() });
export const NoticesRead = z.strictObject({ upTo: z.string().regex(/^\d{1,18}$/) });

/** One person's page. Each part holds at most 200; `totals` says how many there are. */
export const Desk = z.object({
  held: z.array(Document),
  decisions: z.array(z.object({ document: DocumentName, label: z.string(), submittedBy: Person, at: Instant, comment: z.string() })),
  cameBack: z.array(z.object({ document: DocumentName, label: z.string(), by: Person, at: Instant, comment: z.string() })),
  files: z.array(DeskFile), notices: z.array(Notice), unread: z.number(),
  totals: z.object({ held: z.number(), decisions: z.number(), cameBack: z.number(), files: z.number(), notices: z.number() }),
});

export const MergeQuery = z.strictObject({ document: Id.optional().meta({ description: 'The document to bring it into, where the file does not say' }) });
export const Merge = z.object({
  document: DocumentName, base: z.string(), latest: z.string(),
  /** `null`: files of this type are not merged; one side is taken whole. */
  format: z.enum(['docx', 'text']).nullable(), why: z.string().nullable(),
  regions: z.array(z.object({
    kind: z.enum(['same', 'theirs', 'yours', 'both', 'words', 'conflict']), base: z.array(z.string()), theirs: z.array(z.string()), yours: z.array(z.string()),
    merged: z.array(z.string()).nullable(), yoursStays: z.string().optional(),
  })),
  conflicts: z.number(),
});
export const BringIn = z.strictObject({
  document: Id.optional(), level: Level, comment: Comment.default(''), keepFileName: z.boolean().default(false), confirm: z.array(z.enum(checkInQuestions)).default([]),
  /** What was chosen for regions of the merge, by index; null takes the file as it is. */
  choices: z.record(z.string().regex(/^\d{1,6}$/), z.enum(mergeChoices)).nullable().default(null),
  /** The latest version the merge was looked at with; another one since then is refused. */
  latest: VersionName.optional(),
});
export const RegisterFile = z.strictObject({ library: Id, fields: NewDocumentFields, comment: Comment.default(''), level: Level.default('minor') });

export const bulkActs = ['checkOut', 'checkIn', 'discard'] as const;
export const Bulk = z.strictObject({
  act: z.enum(bulkActs), documents: z.array(Id).min(1).max(100), rehearse: z.boolean().default(false),
  comment: Comment.default(''), level: Level.default('minor'), keepCheckedOut: z.boolean().default(false), reason: z.string().max(1_000_000).optional(), until: Instant.optional(),
  confirm: List.pipe(z.array(z.enum(checkInQuestions))).default([]),
});
/** What became, or would become, of each document, in the order asked. */
export const BulkOutcomes = z.object({
  outcomes: z.array(z.object({
    document: Id, number: z.string(), title: z.string(), ok: z.boolean(), text: z.string(), label: z.string().nullable(),
    problem: z.object({ code: z.string(), detail: z.string() }).nullable(),
  })),
});
export const CustodyQuery = z.strictObject(Paging);

export type CustodyPeriod = z.output<typeof CustodyPeriod>;
export type CustodyHistory = z.output<typeof CustodyHistory>;
export type DeskFile = z.output<typeof DeskFile>;
export type Desk = z.output<typeof Desk>;
export type Notice = z.output<typeof Notice>;
export type NoticeList = z.output<typeof NoticeList>;
export type Merge = z.output<typeof Merge>;
export type BringIn = z.output<typeof BringIn>;
export type Bulk = z.output<typeof Bulk>;
export type BulkOutcomes = z.output<typeof BulkOutcomes>;
