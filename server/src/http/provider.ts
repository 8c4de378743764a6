import { routes } from '@polychron/contract';
import { refuse } from '@polychron/core';
import { parse } from 'cookie';
import type { Request, Response } from 'express';
import { type Provider, UnderWay } from '../access/provider.ts';
import { performMapProvider, readProviderMapping, signInByProvider } from '../acts/signInByProvider.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import type { ContractRouter } from './router.ts';
import { setSessionCookie } from './sessions.ts';

const cookieName = 'polychron_provider';
const path = '/api/v1/session/provider';
/** How long somebody may take at the provider, in milliseconds. */
const longest = 15 * 60_000;

/** Sign-in by a provider of identities, and how its claims are taken. */
export function providerRoutes(router: ContractRouter): void {
  router.on(routes.signInWays, async ({ asker: { context } }) => ({
    passwords: context.signIn.passwords,
    provider: context.signIn.provider?.place.name ?? null,
    demo: context.demoAccounts,
  }));
  router.on(routes.beginProvider, ({ asker: { context }, query, req, res }) =>
    orSayWhy(context, res, async () => {
      const provider = providerOf(context);
      const { address, underWay } = await provider.begin(returnAddress(provider, req), query.to);
      const value = Buffer.from(JSON.stringify(underWay)).toString('base64url');
      const secure = req.secure;
      res.cookie(cookieName, value, { httpOnly: true, sameSite: 'lax', secure, path, maxAge: longest });
      res.redirect(302, address.href);
    }),
  );
  router.on(routes.endProvider, ({ asker: { context }, req, res }) =>
    orSayWhy(context, res, async () => {
      const provider = providerOf(context);
      const underWay = underWayIn(req);
      const returned = new URL(returnAddress(provider, req));
      returned.search = new URL(req.originalUrl, 'http://localhost').search;
      const session = await signInByProvider(context, await provider.end(returned, underWay));
      setSessionCookie(req, res, session);
      leave(res, underWay.to);
    }),
  );
  router.on(routes.readProviderMapping, ({ asker }) => readProviderMapping(asker));
  router.on(routes.mapProvider, ({ asker, body }) => performMapProvider(asker, body));
}

/** A browser is led here: a refusal is told on the sign-in page, not as problem details. */
async function orSayWhy(context: Context, res: Response, lead: () => Promise<void>): Promise<undefined> {
  try {
    await lead();
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    const { code, facts } = error.refusal;
    context.log.warn({ code, facts }, 'a sign-in by the provider was refused');
    leave(res, `/sign-in?refused=${code}`);
  }
}

function leave(res: Response, to: string): void {
  res.clearCookie(cookieName, { path });
  res.redirect(302, to);
}

/** @throws Refused `no-provider` */
function providerOf({ signIn }: Context): Provider {
  if (signIn.provider) return signIn.provider;
  const reason = 'Single sign-on is not set up. Sign in with a password.';
  throw new Refused(refuse('notFound', 'no-provider', reason));
}

/** Where the provider sends people back to; it must be registered there. */
const returnAddress = ({ place }: Provider, req: Request): string =>
  `${place.publicUrl ?? `${req.protocol}://${req.host}`}${path}/return`;

/** What this browser went to the provider with. @throws Refused `provider-refused` */
function underWayIn(req: Request): UnderWay {
  const cookie = parse(req.get('cookie') ?? '')[cookieName];
  const reason = 'The sign-in was not begun in this browser, or took too long. Begin again.';
  if (!cookie) throw new Refused(refuse('forbidden', 'provider-refused', reason));
  try {
    return UnderWay.parse(JSON.parse(Buffer.from(cookie, 'base64url').toString()));
  } catch (error) {
    throw new Refused(refuse('forbidden', 'provider-refused', reason, { why: String(error) }));
  }
}
