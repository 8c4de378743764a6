import { z } from 'zod';
import { levels, numberings, originKinds, roles, sightRoles, standings, states } from '@polychron/core';

/** Enumerations as docs/api.md lists them. */
export const State = z.enum(states);
/** Where a published version stands. */
export const Standing = z.enum(standings);
/** `major` asks for publication, `minor` makes a draft. */
export const Level = z.enum(levels);
/** What a person may be in a library. */
export const Role = z.enum(roles);
/** What a version was made by. */
export const OriginKind = z.enum(originKinds);
/** How versions are numbered. */
export const NumberingRule = z.enum(numberings);
/** Roles that may be let see unpublished versions; the team and controllers always do. */
export const SightRole = z.enum(sightRoles);

/** The years a moment may lie in, so that it can be kept whatever its zone. */
const firstYear = 1900;
const lastYear = 9998;
/** A moment in time. */
export const Instant = z.iso
  .datetime({ offset: true })
  .refine((text) => {
    const year = new Date(text).getUTCFullYear();
    return year >= firstYear && year <= lastYear;
  }, `must lie in the years ${firstYear} to ${lastYear}`)
  .meta({ description: 'ISO 8601 instant' });
/** The moment that is looked at, where a route is asked as of an earlier one. */
export const AsOf = z.object({ asOf: Instant });
/** What things are called between programs: a UUID (RFC 9562). */
export const Id = z.uuid();
/** A version named by label (`8.1`), era and label (`2~3.0`), or id. */
export const VersionName = z.string().min(1).max(64);
/**
 * Signs that turn the reading direction of what follows (Unicode Annex 9, 2.1 to 2.4): a name read is
 * another than kept.
 */
const turning = /[\u202a-\u202e\u2066-\u2069]/u;
/** A sign that can be seen: no space, control or format sign, filler or blank pattern. */
const visible = /[^\p{Z}\p{Cc}\p{Cf}\p{Default_Ignorable_Code_Point}\u2800]/u;
const line = (most: number) =>
  z
    .string()
    .trim()
    .min(1)
    .max(most)
    .regex(/^\P{Cc}*$/u, 'must not contain control characters')
    .refine((text) => !turning.test(text), 'must not contain signs that turn the reading direction')
    .regex(visible, 'must contain something that can be seen');
/** A title: one line of up to 300 characters. */
export const Title = line(300);
/** A document number: letters, digits, and . / _ - only. */
export const DocumentNumber = z
  .string()
  .trim()
  .min(1)
  .max(40)
  .regex(/^[\p{L}\p{N}][\p{L}\p{N}./_-]*$/u, 'letters, digits, and . / _ - only');
/**
 * Longer comments are refused by core, which says how long they may be; this bound only keeps out what is no
 * text.
 */
export const Comment = z.string().max(1_000_000);
/** The name a person signs in with. */
export const Account = z
  .string()
  .trim()
  .normalize('NFC')
  .toLowerCase()
  .min(1)
  .max(60)
  .regex(/^[^\p{C}\p{Z}]*$/u, 'must not contain spaces or signs that cannot be seen');

/** Yes or no typed into a form or a query. */
export const Flag = z
  .union([z.boolean(), z.enum(['true', 'false', '1', '0', ''])])
  .transform((value) => value === true || value === 'true' || value === '1');

/** A list typed into one form field, separated by commas, or repeated. */
export const List = z
  .union([z.array(z.string()), z.string()])
  .transform((value) =>
    (Array.isArray(value) ? value : value.split(',')).map((item) => item.trim()).filter(Boolean),
  );

/** Which part of a list is asked for: `cursor` is the `next` of the part before. */
export const Paging = {
  cursor: z.string().max(400).optional(),
  limit: z.coerce.number().int().min(1).max(200).default(50),
};

/** Somebody, by account and name. */
export const Person = z.object({ account: z.string(), name: z.string() });

/** RFC 9457 problem details, with a stable `code` and facts. */
export const Problem = z.looseObject({
  type: z.string(),
  title: z.string(),
  status: z.number(),
  detail: z.string(),
  code: z.string(),
});
export type Problem = z.output<typeof Problem>;
export type Person = z.output<typeof Person>;

/** How a document is named. */
export const DocumentName = z.object({ id: Id, number: z.string(), title: z.string() });
/** How a document is named where libraries are mixed. */
export const DocumentInLibrary = DocumentName.extend({
  library: z.object({ id: Id, code: z.string(), name: z.string() }),
});

/** Whether the caller may do an act now; where not, why not. */
export const ActAnswer = z.object({ allowed: z.boolean(), why: z.string().nullable() });
