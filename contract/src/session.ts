import { z } from 'zod';
import { Id, Instant, Title } from './common.ts';

export const SignIn = z.strictObject({ account: z.string().min(1).max(60), password: z.string().min(1).max(1000) });
export const Session = z.object({
  account: z.string(), name: z.string(), siteAdministrator: z.boolean(),
  /** Null for a personal token without a session. */
  expires: Instant.nullable(),
});
export const NewToken = z.strictObject({ name: Title });
export const Token = z.object({ id: Id, name: z.string(), createdAt: Instant, lastUsedAt: Instant.nullable() });
/** The secret is shown once, when the token is made. */
export const MadeToken = Token.extend({ token: z.string() });
export const TokenList = z.object({ items: z.array(Token), next: z.null(), total: z.number() });
export type Session = z.output<typeof Session>;
