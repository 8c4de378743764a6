import type * as contract from '@polychron/contract';
import type { Request, Response } from 'express';
import { routes } from '@polychron/contract';
import type { KeptToken } from '../store/sessions.ts';
import {
  changePassword,
  endSession,
  endSessions,
  listSessions,
  listTokens,
  makeToken,
  type OpenedSession,
  revokeToken,
  signIn,
  signOut,
} from '../access/sessions.ts';
import { performConfirmTime } from '../acts/confirmTime.ts';
import { readClock } from '../reads/clock.ts';
import type { ContractRouter } from './router.ts';
import { driveAddress } from '../protocols/basicSignIn.ts';
import { sessionCookie } from './signedIn.ts';

/** Sessions, personal tokens, and the server's time. */
export function sessionRoutes(router: ContractRouter): void {
  router.on(routes.signIn, async ({ asker, body, req, res }) => {
    const session = await signIn(asker.context, body.account, body.password);
    setSessionCookie(req, res, session);
    const { caller, expires } = session;
    return {
      account: caller.account,
      name: caller.name,
      systemAdministrator: caller.systemAdministrator,
      expires: expires.toISOString(),
    };
  });
  router.on(routes.readSession, async ({ asker: { caller, context }, req }) => ({
    account: caller.account,
    name: caller.name,
    systemAdministrator: caller.systemAdministrator,
    expires: req.sessionExpires?.toISOString() ?? null,
    drive: driveAddress(context, req),
  }));
  router.on(routes.signOut, async ({ asker, req, res }) => {
    if (req.sessionSecret) await signOut(asker.context, req.sessionSecret);
    res.clearCookie(sessionCookie, { path: '/' });
  });
  router.on(routes.changePassword, ({ asker, body, req }) => changePassword(asker, body, req.sessionSecret));
  router.on(routes.listSessions, async ({ asker: { context, caller }, req }) =>
    sessionViews(await listSessions(context, caller.id, req.sessionSecret)),
  );
  router.on(routes.endOtherSessions, ({ asker: { context, caller }, req }) =>
    endSessions(context, caller.id, req.sessionSecret),
  );
  router.on(routes.endSession, ({ asker: { context, caller }, params }) =>
    endSession(context, caller.id, params.id),
  );
  router.on(routes.listTokens, async ({ asker: { context, caller } }) =>
    tokenViews(await listTokens(context, caller.id)),
  );
  router.on(routes.makeToken, async ({ asker, body }) => {
    const until = body.until === null ? null : new Date(body.until);
    const { token, secret } = await makeToken(asker, { ...body, until });
    return { ...tokenView(token), token: secret };
  });
  router.on(routes.revokeToken, ({ asker: { context, caller }, params }) =>
    revokeToken(context, caller.id, params.id),
  );
  router.on(routes.readTurns, async ({ asker: { context, caller } }) => context.readers.placeOf(caller.id));
  router.on(routes.readClock, ({ asker }) => readClock(asker));
  router.on(routes.confirmTime, ({ asker }) => performConfirmTime(asker));
}

/** Hands the browser its session. */
export function setSessionCookie(req: Request, res: Response, { secret, expires }: OpenedSession): void {
  const path = '/';
  res.cookie(sessionCookie, secret, { httpOnly: true, sameSite: 'lax', secure: req.secure, expires, path });
}

/** Sessions as the API lists them. */
export function sessionViews(found: Awaited<ReturnType<typeof listSessions>>): contract.SessionList {
  const items = found.map(({ id, createdAt, expiresAt, here }) => ({
    id,
    createdAt: createdAt.toISOString(),
    expiresAt: expiresAt.toISOString(),
    here,
  }));
  return { items, next: null, total: items.length };
}

const tokenView = ({ id, name, createdAt, lastUsedAt, scope, untilAt }: KeptToken): contract.Token => ({
  id,
  name,
  createdAt: createdAt.toISOString(),
  lastUsedAt: lastUsedAt?.toISOString() ?? null,
  scope,
  until: untilAt?.toISOString() ?? null,
});

/** Tokens as the API lists them. */
export function tokenViews(found: readonly KeptToken[]): contract.TokenList {
  return { items: found.map(tokenView), next: null, total: found.length };
}
