import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Server } from 'node:http';
import { fileURLToPath } from 'node:url';
import type { Express } from 'express';
import { DemoAccounts } from '@polychron/contract';
import pino, { type Logger } from 'pino';
import { Provider } from './access/provider.ts';
import { closeContext, makeContext } from './compose.ts';
import { Room } from './content/room.ts';
import type { Context } from './context.ts';
import { createApp } from './http/app.ts';
import { certificateOf } from './http/certificate.ts';
import { listen, listenSecurely } from './http/listen.ts';
import { Sweeps } from './jobs/sweeps.ts';
import { latestActIn } from './store/clock.ts';
import { isUnreachable } from './store/database.ts';
import { migrate } from './store/migrate.ts';
import { mailPlace } from './standins/mail.ts';

/** How long requests under way may take to end when the server stops, in milliseconds. */
const longestGoodbye = 10_000;

/** Which proxies are trusted: how many, or their addresses, separated by commas. */
function trusted(given: string | undefined): { trustProxy?: number | string } {
  if (!given) return {};
  return { trustProxy: /^\d+$/.test(given) ? Number(given) : given };
}

/** What a person may keep on their Desk. */
function deskBytesFrom(env: NodeJS.ProcessEnv): { deskBytes?: number } {
  const given = env['POLYCHRON_DESK_BYTES'];
  if (!given) return {};
  const deskBytes = Number(given);
  if (Number.isSafeInteger(deskBytes) && deskBytes > 0) return { deskBytes };
  throw new Error(`POLYCHRON_DESK_BYTES is ${given}; it must be a number of bytes.`);
}

/**
 * A provider of identities that people sign in by, where one is named; and whether passwords are taken
 * too.
 */
function signInFrom(env: NodeJS.ProcessEnv): Context['signIn'] {
  const issuer = env['POLYCHRON_OIDC_ISSUER'];
  const passwords = env['POLYCHRON_PASSWORDS'] !== 'off';
  if (!issuer) {
    if (!passwords)
      throw new Error('POLYCHRON_PASSWORDS is off and POLYCHRON_OIDC_ISSUER names no provider.');
    return { passwords, provider: null };
  }
  const clientId = env['POLYCHRON_OIDC_CLIENT_ID'];
  if (!clientId) throw new Error('POLYCHRON_OIDC_ISSUER is set, POLYCHRON_OIDC_CLIENT_ID is not.');
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
function demoAccounts(): DemoAccounts {
  const home = process.env['POLYCHRON_HOME'];
  const file = home && join(home, 'demo-accounts.json');
  return file && existsSync(file) ? DemoAccounts.parse(JSON.parse(readFileSync(file, 'utf8'))) : null;
}

/**
 * From now on a lost connection does not end the server: the connector throws where nobody can catch it
 * when the database goes while a connection opens. Before, while it starts, any error ends it, and so does
 * any other after: whoever watches it starts it anew.
 */
function outliveLostConnections(log: Logger): void {
  process.on('uncaughtException', (error) => {
    if (isUnreachable(error)) {
      log.warn({ err: error }, 'a connection to the database was lost');
      return;
    }
    log.fatal({ err: error }, 'an error nobody expected; the server ends');
    process.exit(1);
  });
}

const stagingName = 'polychron-';

/** Removes what servers that were killed have left behind of uploads. */
function removeLeftovers(staging: string): void {
  for (const name of readdirSync(staging)) {
    const pid = new RegExp(`^${stagingName}(\\d+)-`).exec(name)?.[1];
    if (pid && !isRunning(Number(pid))) rmSync(join(staging, name), { recursive: true, force: true });
  }
}

function isRunning(pid: number): boolean {
  try {
    return process.kill(pid, 0);
  } catch (error) {
    // Of somebody else it is running all the same.
    return (error as { code?: string }).code === 'EPERM';
  }
}

/** Where the database keeps its data, if it lies on this machine. */
function dataFolder(): string[] {
  const home = process.env['POLYCHRON_HOME'];
  return home && existsSync(home) ? [home] : [];
}

/** A server that listens, and what is said of where. */
interface Serving {
  server: Server;
  where: string;
}

const serve = (app: Express, port: number): Promise<Serving> =>
  new Promise((resolve, reject) => {
    const where = `Polychron is ready on http://127.0.0.1:${port}`;
    const server = listen(app, port, (error) => (error ? reject(error) : resolve({ server, where })));
  });

/** Over TLS too, where a port is given: programs give a password to nothing else. */
async function serveSecurely(app: Express): Promise<Serving[]> {
  const port = process.env['POLYCHRON_TLS_PORT'];
  if (!port) return [];
  const host = process.env['POLYCHRON_TLS_HOST'] ?? '127.0.0.1';
  const certificate = await certificateOf(process.env, process.env['POLYCHRON_HOME'] ?? null, new Date());
  const whose = certificate.selfSigned ? 'a certificate of its own' : 'the certificate given';
  const where = `and over TLS on https://${host}:${port}, with ${whose} (SHA-256 ${certificate.fingerprint})`;
  return new Promise((resolve, reject) => {
    const place = { port: Number(port), host };
    const server = listenSecurely(app, certificate, place, (error) =>
      error ? reject(error) : resolve([{ server, where }]),
    );
  });
}

/** Starts the server on a migrated database; ends on SIGTERM or SIGINT after what is under way. */
async function main(): Promise<void> {
  const url = process.env['POLYCHRON_DATABASE_URL'];
  if (!url) throw new Error('POLYCHRON_DATABASE_URL is not set; start with "npm start".');
  const port = Number(process.env['POLYCHRON_PORT'] ?? 4600);
  const staging = process.env['POLYCHRON_STAGING'] ?? tmpdir();
  mkdirSync(staging, { recursive: true });
  removeLeftovers(staging);
  const stagingFolder = mkdtempSync(join(staging, `${stagingName}${process.pid}-`));
  const log = pino({ level: process.env['POLYCHRON_LOG_LEVEL'] ?? 'warn' });
  const room = new Room([stagingFolder, ...dataFolder()]);
  // Of all servers, so that an upload goes on after a restart.
  const uploadsFolder = join(staging, 'uploads');
  const signIn = signInFrom(process.env);
  const parts = {
    databaseUrl: url,
    clock: () => new Date(),
    log,
    stagingFolder,
    room,
    signIn,
    demoAccounts: demoAccounts(),
    uploadsFolder,
    mail: mailPlace(process.env, port),
    ...deskBytesFrom(process.env),
    tlsPort: Number(process.env['POLYCHRON_TLS_PORT']) || null,
  };
  const context = makeContext(parts);
  await migrate(context.db);
  const latest = await latestActIn(context);
  if (latest) context.latestAct.raise(latest);
  outliveLostConnections(log);
  const sweeps = new Sweeps(context);
  context.wake = () => sweeps.wake();
  const webFolder = fileURLToPath(new URL('../../web/dist', import.meta.url));
  const app = createApp(context, { webFolder, ...trusted(process.env['POLYCHRON_TRUST_PROXY']) });
  const serving = [...(await serveSecurely(app)), await serve(app, port)].reverse();
  const servers = serving.map(({ server }) => server);
  sweeps.start();
  console.log(serving.map(({ where }) => where).join('\n'));

  const stop = (): void => {
    const closed = servers.map((server) => new Promise((resolve) => server.close(resolve)));
    void Promise.all(closed).then(() => {
      void sweeps
        .stop()
        .then(() => closeContext(context))
        .finally(() => rmSync(stagingFolder, { recursive: true, force: true }));
    });
    context.events.end();
    for (const server of servers) server.closeIdleConnections();
    // An open page asks again and again on the connection it has.
    setTimeout(() => {
      for (const server of servers) server.closeAllConnections();
    }, longestGoodbye).unref();
  };
  process.once('SIGTERM', stop);
  process.once('SIGINT', stop);
}

await main();
