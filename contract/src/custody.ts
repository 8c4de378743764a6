import { z } from 'zod';
import { checkInQuestions, custodyEnds, doors } from '@polychron/core';
import { Comment, Flag, Instant, Level, List, Paging, Person, VersionName } from './common.ts';

/** Ends somebody's check-out, with a reason. */
export const Lift = z.strictObject({ reason: Comment.default('') });
/** How content is sent. */
export const MarkedQuery = z.strictObject({
  marked: Flag.optional().meta({
    description:
      'With the version it is taken from written into it (.docx, .xlsx, .odt); without it the bytes as they were checked in',
  }),
});
/** How a version's content is sent: as it was checked in, marked to be worked on, or as an issued copy. */
export const ContentQuery = MarkedQuery.extend({
  issued: Flag.optional().meta({
    description:
      'An issued copy: number, title, version, status, owner, approvers and dates written in where the file names them (.docx, .odt, .xlsx), or in the margin (.pdf)',
  }),
}).refine(
  ({ marked, issued }) => !(marked && issued),
  'An issued copy is not to be worked on and carries no mark: ask for one of marked and issued.',
);
/** Why readers get a version as it was checked in, and no issued copy of it; null where they get one. */
export const Issuable = z.object({ why: z.string().nullable() });
export type Issuable = z.output<typeof Issuable>;
/** How a save is kept. */
export const SaveQuery = z.strictObject({
  sitting: z
    .string()
    .regex(/^[\w-]{1,40}$/)
    .optional()
    .meta({ description: 'Given by an editor that saves by itself: such saves of one sitting are one step' }),
});

/** One time a document was held. Base, end, reasons and what became of it only for those who see the base. */
export const CustodyPeriod = z.object({
  holder: Person,
  since: Instant,
  until: Instant.nullable(),
  reason: z.string().nullable(),
  base: z.string().nullable(),
  endedAt: Instant.nullable(),
  how: z.enum(custodyEnds).nullable(),
  endedBy: Person.nullable(),
  endReason: z.string().nullable(),
  version: z.string().nullable(),
});
/** A part of the times a document was held, newest first. */
export const CustodyHistory = z.object({
  items: z.array(CustodyPeriod),
  next: z.string().nullable(),
  total: z.number(),
});
/** Which part of a document's custody history, or of one's notices. */
export const CustodyQuery = z.strictObject(Paging);

export type CustodyPeriod = z.output<typeof CustodyPeriod>;
export type CustodyHistory = z.output<typeof CustodyHistory>;

/** Who holds a document. */
export const Custody = z
  .object({
    holder: Person,
    mine: z.boolean(),
    since: Instant,
    /** The rest only for those who see the base version. */
    until: Instant.nullable(),
    reason: z.string().nullable(),
    base: z.string().nullable(),
    saves: z.number(),
    lastSavedAt: Instant.nullable(),
    overdue: z.boolean(),
    /** The working copy, for its holder: null while nothing was saved. */
    workingCopy: z.object({ fileName: z.string(), size: z.number(), sha256: z.string() }).nullable(),
    /** Through which door it was checked out: the page and this interface, or the drive. */
    door: z.enum(doors).nullable(),
    /** Until when a program of the holder keeps it open; null where none does. Told to the holder. */
    openUntil: Instant.nullable(),
    /** Since when the holder is asked what becomes of what a program saved; null where nothing is asked. */
    toFinish: Instant.nullable(),
  })
  .meta({ id: 'Custody' });

/** Takes a document into custody; all may be left out. */
export const CheckOut = z.strictObject({
  reason: z.string().trim().max(1_000_000).optional(),
  until: Instant.optional(),
  base: z.enum(['inForce', 'latest']).optional().meta({
    description:
      'What is worked on where the latest version was withdrawn: what is in force, unless it is said otherwise',
  }),
});

/** Moves the end of one's check-out. */
export const Prolong = z.strictObject({ until: Instant });

/** Makes what one worked on the next version; a file comes as the part `file`. */
export const CheckInForm = z.strictObject({
  comment: Comment.default(''),
  /** Left out only where there is no minor level. */
  level: Level.optional(),
  keepCheckedOut: Flag.default(false),
  keepFileName: Flag.default(false),
  confirm: List.pipe(z.array(z.enum(checkInQuestions))).default([]),
});

/** A version without a check-out; its content comes as the part `file`. */
export const UploadForm = CheckInForm.omit({ keepCheckedOut: true }).extend({ basedOn: VersionName });

/** One save of a working copy. */
export const Save = z.object({
  position: z.number(),
  at: Instant,
  fileName: z.string(),
  size: z.number(),
  sha256: z.string(),
});

/** The saves of a working copy, oldest first. */
export const SaveList = z.object({ items: z.array(Save), next: z.null(), total: z.number() });

export type Save = z.output<typeof Save>;

export type Custody = z.output<typeof Custody>;
