import { refuse } from '@polychron/core';
import type { Request, RequestHandler, Response } from 'express';
import { readToken, requireScope } from '../access/sessions.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';

/** What a program gave as account and password (RFC 7617, 2: in UTF-8, as we say we take it). */
function givenBy(header: string | undefined): { account: string; secret: string } | null {
  const coded = /^Basic +([\w+/=-]+)$/i.exec(header ?? '')?.[1];
  if (coded === undefined) return null;
  const [, account = '', secret = ''] = /^([^:]*):(.*)$/s.exec(Buffer.from(coded, 'base64').toString()) ?? [];
  return { account: account.trim().toLowerCase(), secret };
}

/** From this machine, where nobody listens on the way (RFC 1122, 3.2.1.3; RFC 4291, 2.5.3). */
const isOfThisMachine = (req: Request): boolean =>
  /^(127\.|::1$|::ffff:127\.)/.test(req.socket.remoteAddress ?? '') && /^(127\.|::1$)/.test(req.ip ?? '');

/** Where a program opens the libraries as a drive: over TLS, but on this machine as the page. */
export function driveAddress({ tlsPort }: Pick<Context, 'tlsPort'>, req: Request): string {
  if (req.secure) return `https://${req.host}/dav/`;
  if (isOfThisMachine(req)) return `http://${req.host}/dav/`;
  return `https://${tlsPort === null ? req.host : `${req.hostname}:${tlsPort}`}/dav/`;
}

function askForIt(res: Response, reason: string): never {
  res.set('WWW-Authenticate', 'Basic realm="Polychron", charset="UTF-8"');
  throw new Refused(refuse('forbidden', 'not-signed-in', reason));
}

/**
 * Signs in a program that knows no more than account and password: the password is a personal token. None is
 * taken over a plain connection from elsewhere. No cookie counts here, so that no page can act by it.
 */
export function basicSignIn(context: Context): RequestHandler {
  return async (req, res, next) => {
    if (!req.secure && !isOfThisMachine(req)) {
      const reason = 'No password is taken over a plain connection from elsewhere. Use the address over TLS.';
      throw new Refused(refuse('forbidden', 'needs-tls', reason));
    }
    const given = givenBy(req.get('authorization'));
    if (!given) return askForIt(res, 'Sign in with your account, and a personal token as the password.');
    const token = await readToken(context, given.secret);
    if (token?.caller.account !== given.account)
      return askForIt(
        res,
        'Account and token do not match, or the token is over. Make one under My account.',
      );
    requireScope(token.scope, req.method);
    req.caller = token.caller;
    next();
  };
}
