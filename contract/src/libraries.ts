import { z } from 'zod';
import { Account, Id, Instant, Role, Title } from './common.ts';
import { RulebookChoices, Rulebook } from './rulebook.ts';

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
});
export const LibraryList = z.object({ items: z.array(Library), next: z.string().nullable(), total: z.number() });

export const Member = z.strictObject({ account: Account, roles: z.array(Role).min(1) });
export const Members = z.array(Member).max(5000);
export const MemberView = z.object({ account: z.string(), name: z.string(), roles: z.array(Role) });
export const RulebookView = z.object({ revision: z.number(), at: Instant, by: z.string(), reason: z.string(), rulebook: Rulebook });

export type Library = z.output<typeof Library>;
export type MemberView = z.output<typeof MemberView>;
export type RulebookView = z.output<typeof RulebookView>;
