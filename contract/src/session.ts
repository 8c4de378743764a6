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
/** A personal token to be made. */
export const NewToken = z.strictObject({ name: Title });
/** A personal token, without its secret. */
export const Token = z.object({
  id: Id,
  name: z.string(),
  createdAt: Instant,
  lastUsedAt: Instant.nullable(),
});
/** The secret is shown once, when the token is made. */
export const MadeToken = Token.extend({ token: z.string() });
/** One's personal tokens, newest first. */
export const TokenList = z.object({ items: z.array(Token), next: z.null(), total: z.number() });
export type Session = z.output<typeof Session>;
