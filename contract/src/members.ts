import { z } from 'zod';
import { Account, Paging, Role } from './common.ts';
import { GroupName } from './people.ts';

/** A person, or a group of them, with their roles. */
export const Member = z.union([
  z.strictObject({ account: Account, roles: z.array(Role).min(1) }),
  z.strictObject({ group: GroupName, roles: z.array(Role).min(1) }),
]);

/** All members of a library. */
export const Members = z.array(Member).max(5000);

/** A member as the members are listed. */
export const MemberView = z.object({
  account: z.string().optional(),
  group: z.string().optional(),
  name: z.string(),
  roles: z.array(Role),
  /** The account is closed; its roles rest until it is opened again. */
  closed: z.boolean().optional(),
  /** People in the group. */
  people: z.number().optional(),
});

/** Which of the people with a role in a library, their own or a group's. */
export const LibraryPeopleQuery = z.strictObject({
  /** Stands in the account or the name. */
  q: z.string().trim().max(60).optional(),
  /** Only those who hold this role. */
  role: Role.optional(),
  ...Paging,
});

/** A part of the people with a role in a library, by name. */
export const LibraryPeople = z.object({
  items: z.array(z.object({ account: z.string(), name: z.string(), roles: z.array(Role) })),
  next: z.string().nullable(),
  total: z.number(),
});

export type LibraryPeople = z.output<typeof LibraryPeople>;

export type LibraryPeopleQuery = z.output<typeof LibraryPeopleQuery>;

export type MemberView = z.output<typeof MemberView>;

export type Member = z.output<typeof Member>;
