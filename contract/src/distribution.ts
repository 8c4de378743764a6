import { z } from 'zod';
import { Account, Comment, DocumentInLibrary, Instant, Paging, Person } from './common.ts';

/** People by account and groups by name. */
const NamedPeople = {
  people: z.array(Account).max(200),
  groups: z.array(z.string().trim().min(1).max(120)).max(50),
};

/** People and groups that are named with a document. */
const Named = z.object({ people: z.array(Person), groups: z.array(z.string()) });

/**
 * Keeps a document to people and groups, or with `null` opens it to every member. With `rehearse` nothing
 * changes.
 */
export const SetLimit = z.strictObject({
  limit: z.strictObject(NamedPeople).nullable(),
  reason: Comment.default(''),
  rehearse: z.boolean().default(false),
});

/** To whom a document is kept, beside its owner, its co-authors and controllers. */
export const Limit = z.object({
  /** Null: it is there for every member. */
  limit: Named.nullable(),
});

/** To whom a document is kept, and whose sight of it that changes. */
export const LimitOutcome = Limit.extend({ losing: z.array(Person), gaining: z.array(Person) });

/** Says who is to read a document; nobody named: nobody is asked any more. */
export const Distribute = z.strictObject(NamedPeople);

/** Which part of the list of those who are to read a document. */
export const DistributionQuery = z.strictObject(Paging);

/** Who is to read what is in force of a document: those who have not confirmed it first, by name. */
export const Distribution = z.object({
  named: Named,
  /** What is in force; null: nothing is, and nobody is asked. */
  version: z.string().nullable(),
  items: z.array(
    z.object({
      person: Person,
      /** The groups by which they are asked; none where they are named themselves. */
      groups: z.string(),
      /** Since when they are asked to read this version. */
      since: Instant,
      readAt: Instant.nullable(),
    }),
  ),
  next: z.string().nullable(),
  total: z.number(),
  /** How many have not confirmed it yet. */
  outstanding: z.number(),
});

/** A reminder is sent without a body. */
export const Remind = z.strictObject({});

/** How many were reminded. */
export const Reminded = z.object({ reminded: z.number() });

/** Confirms having read a version, without a body. */
export const ConfirmRead = z.strictObject({});

/** What was read, and when that was confirmed. */
export const ReadConfirmed = z.object({ version: z.string(), at: Instant });

/** A document that one is to read, and since when. */
export const ToRead = z.object({ document: DocumentInLibrary, version: z.string(), since: Instant });

export type Distribution = z.output<typeof Distribution>;

export type Limit = z.output<typeof Limit>;

export type LimitOutcome = z.output<typeof LimitOutcome>;

export type SetLimit = z.output<typeof SetLimit>;

export type Reminded = z.output<typeof Reminded>;

export type ReadConfirmed = z.output<typeof ReadConfirmed>;
