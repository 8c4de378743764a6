import { z } from 'zod';
import { Account, Flag, Id, Paging, Title } from './common.ts';
import { Password } from './session.ts';

/** The name of a group. */
export const GroupName = Title.max(120);

/** Which accounts. */
export const PeopleQuery = z.strictObject({
  q: z.string().trim().max(60).optional(),
  /** Only open accounts. */
  open: Flag.optional(),
  ...Paging,
});

/** An account. */
export const PersonView = z.object({
  id: Id,
  account: z.string(),
  name: z.string(),
  systemAdministrator: z.boolean(),
  groups: z.array(z.string()),
  /** Nobody signs in by a closed account, and its roles rest. */
  closed: z.boolean(),
  /** The job that hands over what its holder answered for, while it is under way. */
  handingOver: Id.nullable(),
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
    .regex(/^[a-z0-9][a-z0-9._@-]{0,59}$/, 'letters, digits, and . _ @ - only'),
  name: Title,
  password: Password,
  systemAdministrator: z.boolean().default(false),
});

/**
 * An account to be closed or opened again; who takes over what its holder answers for; or only what that
 * would do.
 */
export const PersonChange = z.strictObject({
  closed: z.boolean(),
  handOverTo: Account.optional(),
  rehearse: z.boolean().default(false),
});

/** Who takes over the work that a change of members or a group would leave to nobody. */
export const TakingOver = z.strictObject({ handOverTo: Account.optional() });

/** What of a library's documents somebody answers for, in numbers of documents. */
export const Charges = z.object({
  library: z.object({ id: Id, code: z.string(), name: z.string() }),
  owns: z.number(),
  coAuthors: z.number(),
  approves: z.number(),
  decides: z.number(),
  holds: z.number(),
  setAside: z.number(),
  /** Why the one it is handed over to could not take it, and of how many documents. */
  refusals: z.array(z.object({ detail: z.string(), documents: z.number() })),
});

/** An account closed or opened, or what that would do. */
export const ChangedPerson = z.object({
  person: PersonView,
  /** What is handed over. */
  handOver: z.array(Charges),
  /** Sign-ins that end. */
  sessions: z.number(),
  tokens: z.number(),
  /** A library that would have no controller left. */
  unmanaged: z.string().nullable(),
});

/** People who hold roles together. */
export const Group = z.object({
  id: Id,
  name: z.string(),
  people: z.array(z.object({ account: z.string(), name: z.string() })),
  libraries: z.array(z.string()),
});

/** Which groups. */
export const GroupQuery = z.strictObject({ q: z.string().trim().max(120).optional(), ...Paging });

/** A part of the groups. */
export const GroupList = z.object({
  items: z.array(Group),
  next: z.string().nullable(),
  total: z.number(),
});

/** A group as it is to be. */
export const GroupBody = z.strictObject({ name: GroupName, people: z.array(Account).max(5000).default([]) });

export type PersonChange = z.output<typeof PersonChange>;

export type ChangedPerson = z.output<typeof ChangedPerson>;

export type PersonView = z.output<typeof PersonView>;

export type Group = z.output<typeof Group>;
