import { z } from 'zod';
import { Account, DocumentInLibrary, Id, Instant, Paging, Person } from './common.ts';

/** How notices come by mail: each at once, together once a day, or not at all. */
export const mailChoices = ['atOnce', 'daily', 'none'] as const;

/** How notices come to one by mail, and where they go. */
export const MailChoice = z.object({
  mail: z.enum(mailChoices),
  /** The address that was given; null: the account at the site's domain. */
  address: z.string().nullable(),
  /** Where messages go. */
  sentTo: z.string(),
});

/** Chooses how notices come by mail; `address: null` goes back to the account at the site's domain. */
export const ChooseMail = z.strictObject({
  mail: z.enum(mailChoices),
  address: z.email().max(254).nullable().optional(),
});

/** Whose messages are listed; everybody's for whoever may see that. */
export const OutboxQuery = z.strictObject({ to: Account.optional(), ...Paging });

/** What a message is: one notice, a day's notices, or what came of an answer. */
export const messageKinds = ['notice', 'digest', 'answer'] as const;

/** A message, with what became of it. What it says is told to whom it was sent. */
const OutboxItem = z.object({
  id: Id,
  at: Instant,
  kind: z.enum(messageKinds),
  to: Person,
  address: z.string(),
  /** Null for messages to others. */
  subject: z.string().nullable(),
  /** The document it is about, where it is about one; null for messages to others. */
  document: DocumentInLibrary.nullable(),
  /** When it left by SMTP; null: it is kept here only, or waits to leave. */
  sentAt: Instant.nullable(),
  /** What kept it from leaving, the last time that was tried. */
  problem: z.string().nullable(),
  /**
   * Whether a decision can be given by answering it: it was (`used`), or it is not asked for any more
   * (`over`); null: there was none to give.
   */
  answer: z.enum(['open', 'used', 'over']).nullable(),
  /** When it was answered, by which words, and what came of it; null where it was not. */
  answered: z.object({ at: Instant, text: z.string(), said: z.string() }).nullable(),
});

/** Messages, newest first. */
export const OutboxList = z.object({
  items: z.array(OutboxItem),
  next: z.string().nullable(),
  /** How many were made, those about what one does not see any more among them. */
  total: z.number(),
  /** Whether messages leave by SMTP, too. */
  leaves: z.boolean(),
});

/** A message as it reads. As `message/rfc822` it comes as it was sent. */
export const OutboxMessage = OutboxItem.extend({
  from: z.string(),
  replyTo: z.string().nullable(),
  text: z.string(),
});

/** An answer to a message: its first word decides, the rest is the comment. */
export const Answer = z.strictObject({ text: z.string().min(1).max(20_000) });

/** What came of an answer, in a sentence. */
export const Answered = z.object({ said: z.string() });

export type MailChoice = z.output<typeof MailChoice>;

export type OutboxQuery = z.output<typeof OutboxQuery>;

export type OutboxList = z.output<typeof OutboxList>;

export type OutboxMessage = z.output<typeof OutboxMessage>;

export type Answered = z.output<typeof Answered>;
