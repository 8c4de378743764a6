import { z } from 'zod';
import { ActAnswer, Id, Instant, Role, Title } from './common.ts';
import { Rulebook, RulebookChoices } from './rulebook.ts';

/**
 * Codes that no library has: addresses begin with a library's code, and these begin addresses of the
 * application, of the HTTP interface and of the drive. A test holds them against what is routed.
 */
export const reservedCodes: readonly string[] = [
  ...['ACCOUNT', 'APPROVALS', 'DESK', 'FIND', 'OUTBOX', 'PEOPLE'],
  ...['API', 'ASSETS', 'DAV', 'HEALTHZ'],
];

const Code = z
  .string()
  .trim()
  .regex(/^[A-Z][A-Z0-9]{0,9}$/, 'one to ten capital letters or digits, a letter first')
  .refine((code) => !reservedCodes.includes(code), 'an address of the application begins so; choose another');

/** A library to be made; rules left out are the defaults. */
export const NewLibrary = z.strictObject({
  name: Title,
  code: Code,
  purpose: z.string().trim().max(2000).default(''),
  rulebook: RulebookChoices.default({}),
});
/** What is changed of a library. */
export const LibraryPatch = z.strictObject({
  name: Title.optional(),
  /** Addresses with the one of before lead on; numbers that were given stay. */
  code: Code.optional(),
  purpose: z.string().trim().max(2000).optional(),
  /** Closed, its documents are read and nothing in it changes; it can be opened again. */
  closed: z.boolean().optional(),
});
/** Acts in a library that screens ask about. */
export const libraryActs = [
  'create',
  'checkIn',
  'changeRules',
  'manageMembers',
  'changeLibrary',
  'seeAs',
  'seePast',
  'seeVoided',
  'seeEveryVersion',
] as const;
/** A library as the caller sees it. */
export const Library = z
  .object({
    id: Id,
    name: z.string(),
    code: z.string(),
    /** Codes it had before: addresses with one of them are its own. */
    formerCodes: z.array(z.string()),
    purpose: z.string(),
    /** Since when it is closed; null while it is open. */
    closed: Instant.nullable(),
    roles: z.array(Role),
    /** What the caller may do in the library; of the acts on one document its own answer tells. */
    acts: z.record(z.enum(libraryActs), ActAnswer),
    /** Documents the caller sees something of; null as of an earlier moment, when nobody counts them. */
    documents: z.number().nullable(),
    /** The rules that screens need to know of. */
    rules: Rulebook.pick({
      numbering: true,
      numberPatterns: true,
      fields: true,
      custody: true,
      saves: true,
      checkInComment: true,
      allowanceBytes: true,
    }).extend({ approval: z.boolean() }),
    /** Bytes of content kept, for those who may change documents, where the library has an allowance. */
    bytesKept: z.number().nullable(),
  })
  .meta({ id: 'Library' });
/** Of which type of document the next free number is asked for. */
export const NumberQuery = z.strictObject({ type: z.string().trim().max(60).optional() });
/** The number a new document would get now. */
export const NextNumber = z.object({ number: z.string() });
/** Libraries the caller may look at. */
export const LibraryList = z.object({
  items: z.array(Library),
  next: z.string().nullable(),
  total: z.number(),
});

export type NextNumber = z.output<typeof NextNumber>;
export type Library = z.output<typeof Library>;
