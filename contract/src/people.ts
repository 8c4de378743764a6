import { z } from 'zod';
import { Account, Id, Paging, Title } from './common.ts';
import { Password } from './session.ts';

/** The name of a group. */
export const GroupName = Title.max(120);

/** Which accounts. */
export const PeopleQuery = z.strictObject({ q: z.string().trim().max(60).optional(), ...Paging });

/** An account. */
export const PersonView = z.object({
  account: z.string(),
  name: z.string(),
  systemAdministrator: z.boolean(),
  groups: z.array(z.string()),
});

/** A part of the accounts. */
export const PeopleList = z.object({
  items: z.array(PersonView),
  next: z.string().nullable(),
  total: z.number(),
});

/** An account to be made; it can sign in at once. */
export const NewPerson = z.strictObject({
  account: z
    .string()
    .trim()
    .toLowerCase()
    .regex(/^[a-z0-9][a-z0-9._-]{0,59}$/, 'letters, digits, and . _ - only'),
  name: Title,
  password: Password,
  systemAdministrator: z.boolean().default(false),
});

/** People who hold roles together. */
export const Group = z.object({
  id: Id,
  name: z.string(),
  people: z.array(z.object({ account: z.string(), name: z.string() })),
  libraries: z.array(z.string()),
});

/** All groups. */
export const GroupList = z.object({ items: z.array(Group), next: z.null(), total: z.number() });

/** A group as it is to be. */
export const GroupBody = z.strictObject({ name: GroupName, people: z.array(Account).max(5000).default([]) });

export type PersonView = z.output<typeof PersonView>;

export type Group = z.output<typeof Group>;
