import type { RequestListener, Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import pino, { type Logger } from 'pino';
import { runCommand } from './commands/command.ts';
import { sayProgress, tellOnTerminal } from './commands/progress.ts';
import { closeContext, makeContext } from './compose.ts';
import { Room } from './content/room.ts';
import { createApp } from './http/app.ts';
import { certificateOf } from './http/certificate.ts';
import { listen, listenSecurely } from './http/listen.ts';
import { Sweeps } from './jobs/sweeps.ts';
import { NotStarted } from './notStarted.ts';
import { Doorway } from './serving/doorway.ts';
import { dataFolder, demoAccounts, deskBytesFrom, signInFrom, trusted } from './serving/environment.ts';
import { makeStagingFolder } from './serving/stagingFolder.ts';
import { mailPlace } from './standins/mail.ts';
import { latestActIn } from './store/clock.ts';
import { isUnreachable } from './store/database.ts';
import { migrate } from './store/migrate.ts';

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

/** A server that listens, and what is said of where. */
interface Serving {
  server: Server;
  where: string;
}

const serve = (handle: RequestListener, port: number): Promise<Serving> =>
  new Promise((resolve, reject) => {
    const where = `Polychron is ready on http://127.0.0.1:${port}`;
    const server = listen(handle, port, (error) =>
      error ? reject(notListening(error, port)) : resolve({ server, where }),
    );
  });

/** Over TLS too, where a port is given: programs give a password to nothing else. */
async function serveSecurely(handle: RequestListener): Promise<Serving[]> {
  const port = process.env['POLYCHRON_TLS_PORT'];
  if (!port) return [];
  const host = process.env['POLYCHRON_TLS_HOST'] ?? '127.0.0.1';
  const certificate = await certificateOf(process.env, process.env['POLYCHRON_HOME'] ?? null, new Date());
  const whose = certificate.selfSigned ? 'a certificate of its own' : 'the certificate given';
  const where = `and over TLS on https://${host}:${port}, with ${whose} (SHA-256 ${certificate.fingerprint})`;
  return new Promise((resolve, reject) => {
    const place = { port: Number(port), host };
    const server = listenSecurely(handle, certificate, place, (error) =>
      error ? reject(notListening(error, port)) : resolve([{ server, where }]),
    );
  });
}

const notListening = (error: Error, port: number | string): NotStarted =>
  new NotStarted(`Port ${port} cannot be listened on: ${error.message}.`, error);

/** Starts the server on its database, brought up to date; a signal ends it, after what is under way. */
await runCommand(async (databaseUrl) => {
  const port = Number(process.env['POLYCHRON_PORT'] ?? 4600);
  const shared = process.env['POLYCHRON_STAGING'] ?? tmpdir();
  const signIn = signInFrom(process.env);
  const options = { ...deskBytesFrom(process.env), ...trusted(process.env['POLYCHRON_TRUST_PROXY']) };
  const log = pino({ level: process.env['POLYCHRON_LOG_LEVEL'] ?? 'warn' });
  const staging = makeStagingFolder(shared);
  const context = makeContext({
    databaseUrl,
    clock: () => new Date(),
    log,
    stagingFolder: staging.path,
    room: new Room([staging.path, ...dataFolder()]),
    signIn,
    demoAccounts: demoAccounts(),
    // Of all servers, so that an upload goes on after a restart.
    uploadsFolder: join(shared, 'uploads'),
    mail: mailPlace(process.env, port),
    ...options,
    tlsPort: Number(process.env['POLYCHRON_TLS_PORT']) || null,
  });
  const sweeps = new Sweeps(context);
  const doorway = new Doorway();
  const serving: Serving[] = [];
  let ending: Promise<void> | undefined;
  /** Once, however often asked: a terminal tells all of a group, and who started us tells us again. */
  const stop = (): Promise<void> =>
    (ending ??= (async () => {
      await doorway.close(
        serving.map(({ server }) => server),
        () => context.events.end(),
      );
      await sweeps.stop();
      await closeContext(context);
      staging.remove();
    })());

  try {
    serving.push(await serve(doorway.handle, port), ...(await serveSecurely(doorway.handle)));
    const onTerminal = tellOnTerminal();
    await migrate(context.db, (progress) => {
      doorway.tell(sayProgress(progress));
      onTerminal(progress);
    });
    const latest = await latestActIn(context);
    if (latest) context.latestAct.raise(latest);
  } catch (error) {
    await stop();
    throw error;
  }
  outliveLostConnections(log);
  context.wake = () => sweeps.wake();
  const webFolder = fileURLToPath(new URL('../../web/dist', import.meta.url));
  doorway.open(createApp(context, { webFolder, ...options }));
  sweeps.start();
  console.log(serving.map(({ where }) => where).join('\n'));
  process.on('SIGTERM', () => void stop());
  process.on('SIGINT', () => void stop());
});
