import { parse } from 'cookie';
import type { RequestHandler } from 'express';
import { refuse } from '@polychron/core';
import type { Caller } from '../access/caller.ts';
import { isSafe, readSession, readToken, requireScope } from '../access/sessions.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';

declare module 'express-serve-static-core' {
  interface Request {
    /** Who is signed in; null without a sign-in. */
    caller?: Caller | null;
    sessionSecret?: string;
    sessionExpires?: Date | null;
    /** Whether the session or token the request came with still holds. */
    isSignedIn?: () => Promise<boolean>;
    /** Tells that session or token from every other. */
    signIn?: string;
  }
}

export const sessionCookie = 'polychron_session';

/** Finds out who calls: by a personal token, else by the session's cookie. */
export function signedIn(context: Context): RequestHandler {
  return async (req, _res, next) => {
    const bearer = /^Bearer (\S+)$/i.exec(req.get('authorization') ?? '')?.[1];
    if (bearer) {
      const token = await readToken(context, bearer);
      req.caller = token?.caller ?? null;
      req.signIn = bearer;
      req.isSignedIn = async () => (await readToken(context, bearer)) !== null;
      req.sessionExpires = null;
      if (!token) {
        const reason = 'The token is unknown, over, or was revoked. Make a new one.';
        throw new Refused(refuse('forbidden', 'not-signed-in', reason));
      }
      requireScope(token.scope, req.method);
    } else {
      const secret = parse(req.get('cookie') ?? '')[sessionCookie];
      const session = secret ? await readSession(context, secret) : null;
      req.caller = session?.caller ?? null;
      req.sessionExpires = session?.expires ?? null;
      if (secret) {
        req.sessionSecret = secret;
        req.signIn = secret;
        req.isSignedIn = async () => (await readSession(context, secret)) !== null;
      }
      refuseForeignPage(req.method, req.get('sec-fetch-site'));
    }
    next();
  };
}

/** A page of another site may not act with our cookie, whatever the browser does about SameSite. */
function refuseForeignPage(method: string, site: string | undefined): void {
  if (isSafe(method) || site === undefined || site === 'same-origin' || site === 'none') return;
  throw new Refused(
    refuse(
      'forbidden',
      'foreign-page',
      'The request comes from a page of another site. Use a personal token from scripts.',
    ),
  );
}
