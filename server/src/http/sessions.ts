import { routes } from '@polychron/contract';
import {
  changePassword,
  endSession,
  listSessions,
  listTokens,
  makeToken,
  revokeToken,
  signIn,
  signOut,
} from '../access/sessions.ts';
import { performConfirmTime } from '../acts/confirmTime.ts';
import { readClock } from '../reads/clock.ts';
import type { ContractRouter } from './router.ts';
import { sessionCookie } from './signedIn.ts';

/** Sessions, personal tokens, and the server's time. */
export function sessionRoutes(router: ContractRouter): void {
  router.on(routes.signIn, async ({ asker, body, req, res }) => {
    const { secret, caller, expires } = await signIn(asker.context, body.account, body.password);
    res.cookie(sessionCookie, secret, {
      httpOnly: true,
      sameSite: 'lax',
      secure: req.secure,
      expires,
      path: '/',
    });
    return {
      account: caller.account,
      name: caller.name,
      systemAdministrator: caller.systemAdministrator,
      expires: expires.toISOString(),
    };
  });
  router.on(routes.readSession, async ({ asker: { caller }, req }) => ({
    account: caller.account,
    name: caller.name,
    systemAdministrator: caller.systemAdministrator,
    expires: req.sessionExpires?.toISOString() ?? null,
  }));
  router.on(routes.signOut, async ({ asker, req, res }) => {
    if (req.sessionSecret) await signOut(asker.context, req.sessionSecret);
    res.clearCookie(sessionCookie, { path: '/' });
  });
  router.on(routes.changePassword, ({ asker, body, req }) => changePassword(asker, body, req.sessionSecret));
  router.on(routes.listSessions, async ({ asker, req }) => {
    const items = (await listSessions(asker, req.sessionSecret)).map((session) => ({
      ...session,
      createdAt: session.createdAt.toISOString(),
      expiresAt: session.expiresAt.toISOString(),
    }));
    return { items, next: null, total: items.length };
  });
  router.on(routes.endSession, ({ asker, params }) => endSession(asker, params.id));
  router.on(routes.listTokens, async ({ asker }) => {
    const tokens = await listTokens(asker);
    return {
      items: tokens.map(({ id, name, createdAt, lastUsedAt }) => ({
        id,
        name,
        createdAt: createdAt.toISOString(),
        lastUsedAt: lastUsedAt?.toISOString() ?? null,
      })),
      next: null,
      total: tokens.length,
    };
  });
  router.on(routes.makeToken, async ({ asker, body }) => {
    const { id, name, createdAt, secret } = await makeToken(asker, body.name);
    return { id, name, createdAt: createdAt.toISOString(), lastUsedAt: null, token: secret };
  });
  router.on(routes.readClock, ({ asker }) => readClock(asker));
  router.on(routes.confirmTime, ({ asker }) => performConfirmTime(asker));
  router.on(routes.revokeToken, ({ asker, params }) => revokeToken(asker, params.id));
}
