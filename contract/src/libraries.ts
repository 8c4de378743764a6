import { z } from 'zod';
import { Account, Id, Paging, Role, Title } from './common.ts';
import { Rulebook, RulebookChoices } from './rulebook.ts';

export const NewLibrary = z.strictObject({
  name: Title,
  code: z.string().trim().regex(/^[A-Z][A-Z0-9]{0,9}$/, 'one to ten capital letters or digits, a letter first'),
  purpose: z.string().trim().max(2000).default(''),
  rulebook: RulebookChoices.default({}),
});
export const LibraryPatch = z.strictObject({ name: Title.optional(), purpose: z.string().trim().max(2000).optional() });
export const Library = z.object({
  id: Id, name: z.string(), code: z.string(), purpose: z.string(), roles: z.array(Role),
  /** Documents the caller sees something of. */
  documents: z.number(),
  /** The rules that screens need to know of. */
  rules: Rulebook.pick({ numbering: true, custody: true, saves: true, checkInComment: true, allowanceBytes: true }).extend({ approval: z.boolean() }),
  /** Bytes of content kept, for those who may change documents, where the library has an allowance. */
  bytesKept: z.number().nullable(),
});
export const LibraryList = z.object({ items: z.array(Library), next: z.string().nullable(), total: z.number() });

const GroupName = Title.max(120);
/** A person, or a group of them, with their roles. */
export const Member = z.union([
  z.strictObject({ account: Account, roles: z.array(Role).min(1) }),
  z.strictObject({ group: GroupName, roles: z.array(Role).min(1) }),
]);
export const Members = z.array(Member).max(5000);
export const MemberView = z.object({
  account: z.string().optional(), group: z.string().optional(), name: z.string(), roles: z.array(Role),
  /** People in the group. */
  people: z.number().optional(),
});

export const PeopleQuery = z.strictObject({ q: z.string().trim().max(60).optional(), ...Paging });
export const PersonView = z.object({ account: z.string(), name: z.string(), siteAdministrator: z.boolean(), groups: z.array(z.string()) });
export const PeopleList = z.object({ items: z.array(PersonView), next: z.string().nullable(), total: z.number() });
export const NewPerson = z.strictObject({
  account: z.string().trim().toLowerCase().regex(/^[a-z0-9][a-z0-9._-]{0,59}$/, 'letters, digits, and . _ - only'), name: Title,
  password: z.string().min(8, 'at least 8 characters').max(1000), siteAdministrator: z.boolean().default(false),
});
export const Group = z.object({ id: Id, name: z.string(), people: z.array(z.object({ account: z.string(), name: z.string() })), libraries: z.array(z.string()) });
export const GroupList = z.object({ items: z.array(Group), next: z.null(), total: z.number() });
export const GroupBody = z.strictObject({ name: GroupName, people: z.array(Account).max(5000).default([]) });

export type Library = z.output<typeof Library>;
export type MemberView = z.output<typeof MemberView>;
export type Member = z.output<typeof Member>;
export type PersonView = z.output<typeof PersonView>;
export type Group = z.output<typeof Group>;
