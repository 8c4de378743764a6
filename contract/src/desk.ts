import { z } from 'zod';
import { Comment, DocumentInLibrary, Id, Instant, Level, List, Person } from './common.ts';
import { Save } from './custody.ts';
import { Document, KnownFields, KnownFieldsText, NewDocumentFields } from './documents.ts';
import { Notice } from './notices.ts';
import { ToRead } from './distribution.ts';
import { ReviewDue } from './review.ts';

/** A file on somebody's Desk: an arrival, a private copy, or what was set aside as a check-out was lifted. */
export const DeskFile = z
  .object({
    id: Id,
    kind: z.enum(['arrival', 'looseCopy', 'setAside']),
    fileName: z.string(),
    size: z.number(),
    sha256: z.string(),
    mediaType: z.string(),
    words: z.number().nullable(),
    createdAt: Instant,
    changedAt: Instant,
    /**
     * The document it was taken from, or by its mark says it was, where the caller sees that one; with the
     * version, and the latest they see.
     */
    document: DocumentInLibrary.nullable(),
    base: z.string().nullable(),
    latest: z.string().nullable(),
    /** Why the check-out was lifted, and by whom. */
    reason: z.string().nullable(),
    by: Person.nullable(),
    /**
     * The library it is to be registered in, with what is known of it and the names of the fields that are
     * still missing; null where nothing was said, or the caller may register nothing there.
     */
    meantFor: z
      .object({
        library: z.object({ id: Id, code: z.string(), name: z.string() }),
        fields: KnownFields,
        missing: z.array(z.string()),
      })
      .nullable(),
    /** Earlier saves, of a copy set aside. */
    saves: z.array(Save),
    /** Whether it is a text that can be edited in the page. */
    editable: z.boolean(),
  })
  .meta({ id: 'DeskFile' });

/**
 * A file put on one's Desk; it comes as the part `file`. It may say in which library it is to be registered,
 * and what is known of it.
 */
export const DeskFileForm = z.strictObject({
  library: Id.optional(),
  fields: KnownFieldsText.optional(),
});

/** A private copy is asked for without a body. */
export const LooseCopy = z.strictObject({});

/** One person's page. Each part holds at most 200; `totals` says how many there are. */
export const Desk = z.object({
  held: z.array(Document),
  decisions: z.array(
    z.object({
      document: DocumentInLibrary,
      label: z.string(),
      submittedBy: Person,
      at: Instant,
      comment: z.string(),
    }),
  ),
  /** What the caller submitted and others have yet to decide about. */
  outForDecision: z.array(
    z.object({
      document: DocumentInLibrary,
      label: z.string(),
      waitingFor: z.array(Person),
      at: Instant,
      comment: z.string(),
    }),
  ),
  cameBack: z.array(
    z.object({
      document: DocumentInLibrary,
      label: z.string(),
      by: Person,
      at: Instant,
      comment: z.string(),
    }),
  ),
  /** What the caller owns and is soon to be reviewed, and what is past its date where they are controller. */
  reviews: z.array(ReviewDue),
  /** What the caller is to read and has not confirmed, the longest waiting first. */
  toRead: z.array(ToRead),
  files: z.array(DeskFile),
  notices: z.array(Notice),
  unread: z.number(),
  /** Bytes of the files, and of the saves of what one holds; and how many one may keep. */
  bytes: z.number(),
  allowanceBytes: z.number(),
  totals: z.object({
    held: z.number(),
    decisions: z.number(),
    outForDecision: z.number(),
    cameBack: z.number(),
    reviews: z.number(),
    toRead: z.number(),
    files: z.number(),
    notices: z.number(),
  }),
});

/** Whose working copies are to come together. */
export const WorkingCopies = z.strictObject({ documents: List.pipe(z.array(Id).min(1).max(100)) });

/** What the frame says: notices that are new, decisions that wait, and how much is to be read. */
export const Waiting = z.object({ unread: z.number(), toDecide: z.number(), toRead: z.number() });

/** The document one holds, whose working copy the file becomes. */
export const SaveFromDesk = z.strictObject({ document: Id });

/** Makes a file of one's own a new document. */
export const RegisterFile = z.strictObject({
  library: Id,
  fields: NewDocumentFields,
  comment: Comment.default(''),
  level: Level.optional(),
});

export type DeskFile = z.output<typeof DeskFile>;

export type Desk = z.output<typeof Desk>;

export type Waiting = z.output<typeof Waiting>;
