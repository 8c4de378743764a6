import { z } from 'zod';
import { Account, Role } from './common.ts';
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

export type MemberView = z.output<typeof MemberView>;

export type Member = z.output<typeof Member>;
