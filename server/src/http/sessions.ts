import { routes } from '@polychron/contract';
import type { Context } from '../context.ts';
import { listTokens, makeToken, revokeToken, signIn, signOut } from '../services/sessions.ts';
import type { Door } from './bind.ts';
import { sessionCookie } from './signedIn.ts';

/** Sessions and personal tokens. */
export function sessionRoutes(door: Door, context: Context): void {
  door.on(routes.signIn, async ({ body, req, res }) => {
    const { secret, caller, expires } = await signIn(context, body.account, body.password);
    res.cookie(sessionCookie, secret, { httpOnly: true, sameSite: 'lax', secure: req.secure, expires, path: '/' });
    return { account: caller.account, name: caller.name, siteAdministrator: caller.siteAdministrator, expires: expires.toISOString() };
  });
  door.on(routes.readSession, async ({ caller, req }) => ({
    account: caller.account, name: caller.name, siteAdministrator: caller.siteAdministrator, expires: req.sessionExpires?.toISOString() ?? null,
  }));
  door.on(routes.signOut, async ({ req, res }) => {
    if (req.sessionSecret) await signOut(context, req.sessionSecret);
    res.clearCookie(sessionCookie, { path: '/' });
  });
  door.on(routes.listTokens, async ({ caller }) => {
    const tokens = await listTokens(context, caller);
    return {
      items: tokens.map(({ id, name, createdAt, lastUsedAt }) => ({ id, name, createdAt: createdAt.toISOString(), lastUsedAt: lastUsedAt?.toISOString() ?? null })),
      next: null, total: tokens.length,
    };
  });
  door.on(routes.makeToken, async ({ caller, body }) => {
    const { id, name, createdAt, secret } = await makeToken(context, caller, body.name);
    return { id, name, createdAt: createdAt.toISOString(), lastUsedAt: null, token: secret };
  });
  door.on(routes.revokeToken, async ({ caller, params }) => revokeToken(context, caller, params.id));
}
