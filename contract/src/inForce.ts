import { z } from 'zod';
import { DocumentInLibrary, Id, Instant, Paging } from './common.ts';
import { SubjectPath } from './documents.ts';

/** Which documents in force are listed: by beginnings of words, by subjects. */
export const InForceQuery = z.strictObject({
  q: z.string().trim().max(200).optional(),
  subject: z.string().max(60).optional(),
  path: SubjectPath.optional(),
  ...Paging,
});

/** A document with its version in force. */
const InForceItem = z.object({
  document: DocumentInLibrary,
  version: z.string(),
  versionId: Id,
  fileName: z.string(),
  type: z.string().nullable(),
  subject: z.array(z.string()),
  since: Instant,
  comment: z.string(),
  /** Whether it came into force after the caller last said that they had looked. */
  new: z.boolean(),
  /** Whether the caller is to read it and has not confirmed that. */
  toRead: z.boolean(),
  /** Of a new one: the version before it, where the caller sees that one and may compare. */
  before: z.string().nullable(),
});

/** What is in force for the caller, library by library, by number. */
export const InForceList = z.object({
  items: z.array(InForceItem),
  next: z.string().nullable(),
  total: z.number(),
  /** Whether the total is an estimate of two figures. */
  about: z.boolean(),
  /** When the caller last looked; null: never. */
  lookedAt: Instant.nullable(),
});

/** Says that one has looked at what is in force, at the moment of the list. */
export const Looked = z.strictObject({ at: Instant });

export type InForceQuery = z.output<typeof InForceQuery>;

export type InForceList = z.output<typeof InForceList>;
