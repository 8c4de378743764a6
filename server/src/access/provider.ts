import { ProviderQuery } from '@polychron/contract';
import { refuse } from '@polychron/core';
import * as openid from 'openid-client';
import { z } from 'zod';
import { Refused } from '../refused.ts';

/** Where a provider of identities is, and who we are to it (OpenID Connect Core 1.0). */
export interface ProviderPlace {
  issuer: string;
  clientId: string;
  clientSecret: string | undefined;
  /** What it is called on the sign-in page. */
  name: string;
  /** The address people reach us at; left out, the one they asked. */
  publicUrl: string | undefined;
}

/** What is kept in the browser while somebody is at the provider. */
export const UnderWay = z.object({
  state: z.string(),
  nonce: z.string(),
  verifier: z.string(),
  to: ProviderQuery.shape.to,
});
export type UnderWay = z.infer<typeof UnderWay>;

/** Who the provider says somebody is. */
export interface Claims {
  issuer: string;
  subject: string;
  claims: Record<string, unknown>;
}

/** A provider of identities: authorization code flow with PKCE (RFC 7636), state and nonce. */
export class Provider {
  private found: Promise<openid.Configuration> | null = null;

  constructor(readonly place: ProviderPlace) {}

  /** Where to send somebody to sign in, and what is to be remembered until they come back. */
  async begin(returnsTo: string, to: string): Promise<{ address: URL; underWay: UnderWay }> {
    const configuration = await this.configuration();
    const verifier = openid.randomPKCECodeVerifier();
    const underWay = { state: openid.randomState(), nonce: openid.randomNonce(), verifier, to };
    const address = openid.buildAuthorizationUrl(configuration, {
      redirect_uri: returnsTo,
      scope: this.scope(configuration),
      code_challenge: await openid.calculatePKCECodeChallenge(verifier),
      code_challenge_method: 'S256',
      state: underWay.state,
      nonce: underWay.nonce,
    });
    return { address, underWay };
  }

  /**
   * Who came back. @throws Refused `provider-refused` where the provider says no, or what came back is not
   * what was asked for
   */
  async end(returned: URL, { state, nonce, verifier }: UnderWay): Promise<Claims> {
    const configuration = await this.configuration();
    try {
      const tokens = await openid.authorizationCodeGrant(configuration, returned, {
        pkceCodeVerifier: verifier,
        expectedState: state,
        expectedNonce: nonce,
        idTokenExpected: true,
      });
      const told = tokens.claims();
      if (!told) throw new Error('the provider sent no ID token');
      const more = configuration.serverMetadata().userinfo_endpoint
        ? await openid.fetchUserInfo(configuration, tokens.access_token, told.sub)
        : {};
      return { issuer: told.iss, subject: told.sub, claims: { ...told, ...more } };
    } catch (error) {
      const reason = `${this.place.name} did not confirm the sign-in. Try again.`;
      const why = error instanceof Error ? error.message : 'unknown';
      throw new Refused(refuse('forbidden', 'provider-refused', reason, { why: why.slice(0, 200) }));
    }
  }

  /** What is asked for, of what the provider offers: name and groups. */
  private scope(configuration: openid.Configuration): string {
    const offered = configuration.serverMetadata().scopes_supported ?? [];
    return ['openid', 'profile', 'email', ...(offered.includes('groups') ? ['groups'] : [])].join(' ');
  }

  /** Read once; where the provider cannot be reached, anew with the next try. */
  private configuration(): Promise<openid.Configuration> {
    const { issuer, clientId, clientSecret, name } = this.place;
    const address = new URL(issuer);
    const isHere = ['127.0.0.1', 'localhost', '[::1]'].includes(address.hostname);
    // Without TLS only on this machine.
    const execute = isHere && address.protocol === 'http:' ? [openid.allowInsecureRequests] : [];
    this.found ??= openid
      .discovery(address, clientId, clientSecret, undefined, { execute })
      .catch((error: unknown) => {
        this.found = null;
        const reason = `${name} cannot be reached now. Try again in a minute.`;
        const why = error instanceof Error ? error.message : 'unknown';
        throw new Refused(refuse('conflict', 'provider-away', reason, { why: why.slice(0, 200) }));
      });
    return this.found;
  }
}
