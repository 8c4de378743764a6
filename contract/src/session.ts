import { z } from 'zod';
import { Id, Instant, Title } from './common.ts';

/** Account and password. */
export const SignIn = z.strictObject({
  account: z.string().min(1).max(60),
  password: z.string().min(1).max(1000),
});
/** Who is signed in. */
export const Session = z.object({
  account: z.string(),
  name: z.string(),
  systemAdministrator: z.boolean(),
  /** Null for a personal token without a session. */
  expires: Instant.nullable(),
});
/** Who is signed in here, and the address at which their programs open the libraries as a drive. */
export const SessionHere = Session.extend({ drive: z.url() });
/** A password to be set: long enough that it is not guessed. */
export const Password = z.string().min(8, 'at least 8 characters').max(1000);
/** One's password changed: the present one, and what it is from now on. */
export const PasswordChange = z.strictObject({ present: z.string().min(1).max(1000), next: Password });
/** Somebody's sessions that go on, newest first; `here` is the one asked from. */
export const SessionList = z.object({
  items: z.array(z.object({ id: Id, createdAt: Instant, expiresAt: Instant, here: z.boolean() })),
  next: z.null(),
  total: z.number(),
});
/** What a token may do: only read, or whatever its owner may. */
export const TokenScope = z.enum(['read', 'work']);
/** A personal token to be made; without `until` it has no end. */
export const NewToken = z.strictObject({
  name: Title,
  scope: TokenScope.default('work'),
  until: Instant.nullable().default(null),
});
/** A personal token, without its secret. */
export const Token = z.object({
  id: Id,
  name: z.string(),
  createdAt: Instant,
  lastUsedAt: Instant.nullable(),
  scope: TokenScope,
  until: Instant.nullable(),
});
/** The secret is shown once, when the token is made. */
export const MadeToken = Token.extend({ token: z.string() });
/** Somebody's personal tokens, newest first. */
export const TokenList = z.object({ items: z.array(Token), next: z.null(), total: z.number() });
export type Session = z.output<typeof Session>;
export type SessionHere = z.output<typeof SessionHere>;
export type SessionList = z.output<typeof SessionList>;
export type Token = z.output<typeof Token>;
export type TokenList = z.output<typeof TokenList>;
