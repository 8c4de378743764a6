import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { DemoAccounts } from '@polychron/contract';
import { Provider } from '../access/provider.ts';
import type { Context } from '../context.ts';
import express from 'express';
import { NotStarted } from '../notStarted.ts';

/** More proxies than stand one behind another anywhere: whoever counts so many means everybody. */
const mostProxies = 10;

/**
 * Which proxies are trusted: how many, or their addresses, separated by commas. @throws NotStarted where it
 * is neither, or anybody could say that they are one
 */
export function trusted(given: string | undefined): { trustProxy?: number | string } {
  if (!given) return {};
  const trustProxy = /^\d+$/.test(given) ? Number(given) : given;
  const wrong = new NotStarted(
    `POLYCHRON_TRUST_PROXY is ${given}; it must be a number of proxies up to ${mostProxies}, or their addresses.`,
  );
  if (typeof trustProxy === 'number' ? trustProxy > mostProxies : /\/0+$/.test(given)) throw wrong;
  try {
    express().set('trust proxy', trustProxy);
  } catch (error) {
    throw error instanceof TypeError ? wrong : error;
  }
  return { trustProxy };
}

/** What a person may keep on their Desk. */
export function deskBytesFrom(env: NodeJS.ProcessEnv): { deskBytes?: number } {
  const given = env['POLYCHRON_DESK_BYTES'];
  if (!given) return {};
  const deskBytes = Number(given);
  if (Number.isSafeInteger(deskBytes) && deskBytes > 0) return { deskBytes };
  throw new NotStarted(`POLYCHRON_DESK_BYTES is ${given}; it must be a number of bytes.`);
}

/**
 * A provider of identities that people sign in by, where one is named; and whether passwords are taken
 * too.
 */
export function signInFrom(env: NodeJS.ProcessEnv): Context['signIn'] {
  const issuer = env['POLYCHRON_OIDC_ISSUER'];
  const passwords = env['POLYCHRON_PASSWORDS'] !== 'off';
  if (!issuer) {
    if (!passwords)
      throw new NotStarted('POLYCHRON_PASSWORDS is off and POLYCHRON_OIDC_ISSUER names no provider.');
    return { passwords, provider: null };
  }
  const clientId = env['POLYCHRON_OIDC_CLIENT_ID'];
  if (!clientId) throw new NotStarted('POLYCHRON_OIDC_ISSUER is set, POLYCHRON_OIDC_CLIENT_ID is not.');
  const place = {
    issuer,
    clientId,
    clientSecret: env['POLYCHRON_OIDC_CLIENT_SECRET'],
    name: env['POLYCHRON_OIDC_NAME'] ?? new URL(issuer).hostname,
    publicUrl: env['POLYCHRON_PUBLIC_URL']?.replace(/\/$/, ''),
  };
  return { passwords, provider: new Provider(place) };
}

/** The accounts of the demo, where it was loaded here; whoever comes to see it signs in by pressing one. */
export function demoAccounts(): DemoAccounts {
  const home = process.env['POLYCHRON_HOME'];
  const file = home && join(home, 'demo-accounts.json');
  return file && existsSync(file) ? DemoAccounts.parse(JSON.parse(readFileSync(file, 'utf8'))) : null;
}

/** Where the database keeps its data, if it lies on this machine. */
export function dataFolder(): string[] {
  const home = process.env['POLYCHRON_HOME'];
  return home && existsSync(home) ? [home] : [];
}
