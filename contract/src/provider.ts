import { z } from 'zod';
import { GroupName } from './people.ts';

/** Accounts that may be known to everybody, with their one password; null where there are none. */
export const DemoAccounts = z
  .object({ password: z.string(), accounts: z.array(z.object({ account: z.string(), name: z.string() })) })
  .nullable();

/** How one signs in here. */
export const SignInWays = z.object({
  passwords: z.boolean(),
  /** What the provider of identities is called; null where there is none. */
  provider: z.string().nullable(),
  /** The demo's accounts, where the demo was loaded: they have one password, and hide nothing. */
  demo: DemoAccounts,
});

export type DemoAccounts = z.output<typeof DemoAccounts>;

/** Where to go after the sign-in: a path of this application. */
export const ProviderQuery = z.strictObject({
  to: z
    .string()
    .max(2000)
    .regex(/^\/(?![/\\])/, 'must be a path of this application')
    .default('/'),
});

/** What a provider sends back (OpenID Connect Core 1.0, 3.1.2.5 and 3.1.2.6). */
export const ProviderReturn = z.looseObject({ code: z.string().optional(), state: z.string().optional() });

const Claim = z
  .string()
  .trim()
  .regex(/^[\w:./-]{1,120}$/, 'the name of a claim: letters, digits, and _ : . / - only');

/**
 * How a provider's claims are taken. Mapped groups follow the claim at each sign-in; others are let alone.
 */
export const ProviderMapping = z.strictObject({
  /** The claim that holds the account. */
  accountClaim: Claim.default('preferred_username'),
  groupsClaim: Claim.default('groups'),
  /** Whoever signs in first, and has no account yet, gets one. */
  makeAccounts: z.boolean().default(false),
  /** Whoever signs in first gets the account of their name that is there. */
  linkAccounts: z.boolean().default(false),
  groups: z
    .array(z.strictObject({ value: z.string().trim().min(1).max(200), group: GroupName }))
    .max(500)
    .default([]),
});

export type ProviderMapping = z.output<typeof ProviderMapping>;

export type SignInWays = z.output<typeof SignInWays>;
