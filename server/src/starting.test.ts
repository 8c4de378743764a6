import { execFileSync } from 'node:child_process';
import { randomInt } from 'node:crypto';
import { once } from 'node:events';
import { mkdtempSync, mkdirSync, readdirSync, rmSync, utimesSync } from 'node:fs';
import { connect as connectTo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pino from 'pino';
import { makeToken } from './access/sessions.ts';
import { addPerson, setPassword } from './acts/people.ts';
import { closeContext, makeContext } from './compose.ts';
import type { Context } from './context.ts';
import { makeStagingFolder } from './serving/stagingFolder.ts';
import { noteFilling } from './store/filling.ts';
import { hasHeldAnything, isReady, migrate } from './store/migrate.ts';
import { openConnection, rows, run } from './store/database.ts';
import { ownDatabase } from './testing/ownDatabase.ts';
import { ProcessUnderTest } from './testing/process.ts';
import { freePort, type Program, runProgram } from './testing/program.ts';

const folder = mkdtempSync(join(tmpdir(), 'starting-'));
afterAll(() => rmSync(folder, { recursive: true }));

const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => {
    setTimeout(resolve, milliseconds);
  });

/** Starts the server on a database, and says where it is. */
async function serve(url: string, staging = folder): Promise<{ program: Program; address: string }> {
  const port = await freePort();
  const env = { POLYCHRON_DATABASE_URL: url, POLYCHRON_PORT: `${port}`, POLYCHRON_STAGING: staging };
  return { program: runProgram('main.js', { env }), address: `http://127.0.0.1:${port}` };
}

/** The services themselves on a database, for what a test prepares. */
const contextOn = (databaseUrl: string): Context =>
  makeContext({
    databaseUrl,
    clock: () => new Date(),
    log: pino({ level: 'silent' }),
    stagingFolder: folder,
  });

async function ready(address: string): Promise<void> {
  for (let tries = 0; tries < 1200; tries += 1) {
    if ((await fetch(`${address}/healthz`).catch(() => null))?.ok) return;
    await pause(50);
  }
  throw new Error('the server did not become ready within a minute');
}

const given = new URL(process.env['POLYCHRON_DATABASE_URL'] ?? '');
const other = (change: (url: URL) => void): string => {
  const url = new URL(given);
  change(url);
  return url.href;
};

test.each([
  ['what is no address', () => 'nowhere', 'POLYCHRON_DATABASE_URL is not of the form mariadb://'],
  ['another protocol', () => 'postgres://a:b@127.0.0.1/x', 'is not of the form mariadb://'],
  ['no database', () => other((url) => (url.pathname = '/')), 'is not of the form mariadb://'],
  ['a wrong port', () => other((url) => (url.port = '1')), 'nothing listens on 127.0.0.1:1'],
  [
    'a wrong password',
    () => other((url) => (url.password = 'wrong')),
    'does not know this account with this password',
  ],
  [
    'a wrong account',
    () => other((url) => (url.username = 'stranger')),
    'does not know this account with this password',
  ],
  ['a wrong name', () => other((url) => (url.pathname = '/nothing_here')), 'it has no database nothing_here'],
  [
    'a machine that is not there',
    () => other((url) => (url.hostname = 'nowhere.invalid')),
    'nowhere.invalid',
  ],
])('given %s as its database, every program says so in one sentence', async (_, url, sentence) => {
  const commands = ['rebuild.js', 'empty.js', 'administrator.js'].map((name) => `commands/${name}`);
  for (const script of ['main.js', ...(sentence.startsWith('nothing listens') ? commands : [])]) {
    await using program = runProgram(script, {
      args: ['admin'],
      env: {
        POLYCHRON_DATABASE_URL: url(),
        POLYCHRON_PORT: `${await freePort()}`,
        POLYCHRON_STAGING: folder,
      },
    });
    expect(await program.ended).toBe(78);
    expect(program.printed()).toContain(sentence);
    expect(program.printed().trim().split('\n')).toHaveLength(1);
    expect(program.printed()).not.toContain(given.password);
  }
});

test('while the database is brought up to date the server says so, and is not ready', async () => {
  await using own = await ownDatabase();
  const { program, address } = await serve(own.url);
  await using _ = program;
  const told = new Set<string>();
  const codes = new Set<string>();
  for (let isOver = false; !isOver;) {
    const health = await fetch(`${address}/healthz`).catch(() => null);
    isOver = health?.ok ?? false;
    if (health?.status === 503) {
      told.add(((await health.json()) as { doing: string }).doing);
      const refused = await fetch(`${address}/api/v1/libraries`);
      if (refused.status === 503) codes.add(((await refused.json()) as { code: string }).code);
    }
  }
  expect([...told].join('\n')).toMatch(/Bringing the database up to date: 0\d\d-\w+, step \d+ of \d+/);
  expect([...codes]).toEqual(['not-ready']);
  expect(program.printed()).toContain('Bringing the database up to date: 001-first, step 1 of');
});

/** How often a server is killed while it brings a database up to date. */
const rounds = Number(process.env['POLYCHRON_KILL_ROUNDS'] ?? 3) > 3 ? 20 : 2;

/** Kills servers that bring one database up to date, until one gets to the end; how often that was. */
async function killUntilReady(most: number): Promise<number> {
  await using own = await ownDatabase();
  let killed = 0;
  for (; killed < most && !(await isReady(own.db)); killed += 1) {
    const { program } = await serve(own.url);
    await using _ = program;
    while (!program.printed().includes('Bringing')) await pause(5);
    await pause(randomInt(150));
    program.child.kill('SIGKILL');
    await program.ended;
  }
  const { program, address } = await serve(own.url);
  await using _ = program;
  await ready(address);
  expect(await isReady(own.db)).toBe(true);
  return killed;
}

test('a server that is killed while it brings the database up to date is followed by one that goes on', async () => {
  for (let killed = 0; killed < rounds;) killed += await killUntilReady(rounds - killed);
});

test('two servers that start at once on an empty database both become ready', async () => {
  await using own = await ownDatabase();
  const [one, two] = [await serve(own.url), await serve(own.url)];
  await using _ = one.program;
  await using __ = two.program;
  await Promise.all([ready(one.address), ready(two.address)]);
});

test('an older program does not start on the database of a newer one', async () => {
  await using own = await ownDatabase();
  await migrate(own.db);
  await run(own.db, `INSERT INTO migrations (name) VALUES ('999-later')`, {});
  const { program } = await serve(own.url);
  await using _ = program;
  expect(await program.ended).toBe(78);
  expect(program.printed()).toMatch(
    /^polychron: The database was brought up to 999-later by a newer Polychron/,
  );
});

test('asked to end twice, the server answers what had begun, ends streams, and is not ready meanwhile', async () => {
  await using own = await ownDatabase();
  await migrate(own.db);
  const context = contextOn(own.url);
  const caller = { account: 'admin', name: 'A', systemAdministrator: true };
  const id = await addPerson(context, caller);
  const { secret } = await makeToken({ context, caller: { ...caller, id } }, { name: 'test' });
  await closeContext(context);
  const staging = mkdtempSync(join(folder, 'ending-'));
  const { program, address } = await serve(own.url, staging);
  await using _ = program;
  await ready(address);
  const headers = { Authorization: `Bearer ${secret}`, 'Content-Type': 'application/json' };
  const stream = await fetch(`${address}/api/v1/events`, { headers });
  const streamed = stream.text();

  // Half of a request is there when the signal comes: it is let in, answered, and kept.
  const body = JSON.stringify({ account: 'late', name: 'L', password: 'a cable over the valley' });
  const socket = connectTo(Number(new URL(address).port), '127.0.0.1');
  socket.write(
    `POST /api/v1/people HTTP/1.1\r\nHost: 127.0.0.1\r\nAuthorization: Bearer ${secret}\r\nContent-Type: application/json\r\nContent-Length: ${body.length}\r\n\r\n${body.slice(0, 10)}`,
  );
  await pause(300);
  program.child.kill('SIGTERM');
  program.child.kill('SIGINT');
  await streamed;
  // Nobody new is let in.
  await expect(fetch(`${address}/healthz`)).rejects.toThrow();
  program.child.kill('SIGTERM');
  await pause(300);
  let answer = '';
  socket.on('data', (part) => (answer += part.toString()));
  socket.write(body.slice(10));
  await once(socket, 'end');
  expect(answer).toMatch(/^HTTP\/1\.1 201 /);
  expect(answer).toMatch(/^connection: close$/im);
  expect(await program.ended).toBe(0);
  expect(readdirSync(staging)).toEqual(['uploads']);
}, 60_000);

test('a database reached only over TLS is believed by its authority alone, in the threads too', async () => {
  const [key, certificate] = [join(folder, 'key.pem'), join(folder, 'certificate.pem')];
  execFileSync('openssl', [
    ...['req', '-x509', '-newkey', 'ec', '-pkeyopt', 'ec_paramgen_curve:P-256', '-nodes', '-days', '2'],
    ...[
      '-subj',
      '/CN=127.0.0.1',
      '-addext',
      'subjectAltName=IP:127.0.0.1',
      '-keyout',
      key,
      '-out',
      certificate,
    ],
  ]);
  const secure = ['--require-secure-transport=ON', `--ssl-cert=${certificate}`, `--ssl-key=${key}`];
  process.env['POLYCHRON_DATABASE_CA'] = certificate;
  try {
    const under = await ProcessUnderTest.make(secure);
    try {
      await under.startServer();
      const thread = await openConnection(under.databaseUrl);
      const [cipher] = await thread.query<{ Value: string }[]>(`SHOW SESSION STATUS LIKE 'Ssl_cipher'`);
      expect(cipher?.Value).toMatch(/^TLS_/);
      await thread.end();
      for (const [authority, sentence] of [
        ['', 'or wants TLS (POLYCHRON_DATABASE_CA names'],
        [
          '/etc/ssl/certs/nothing.pem',
          'POLYCHRON_DATABASE_CA is /etc/ssl/certs/nothing.pem, which cannot be read',
        ],
        [otherCertificate(), 'The certificate of the database is not believed'],
      ] as const) {
        await using program = runProgram('commands/rebuild.js', {
          env: { POLYCHRON_DATABASE_URL: under.databaseUrl, POLYCHRON_DATABASE_CA: authority },
        });
        expect(await program.ended).toBe(78);
        expect(program.printed()).toContain(sentence);
        expect(program.printed().trim().split('\n')).toHaveLength(1);
      }
    } finally {
      await under.remove();
    }
  } finally {
    delete process.env['POLYCHRON_DATABASE_CA'];
  }
}, 120_000);

/** The certificate of an authority that has signed nothing here. */
function otherCertificate(): string {
  const path = join(folder, 'other.pem');
  execFileSync('openssl', [
    ...['req', '-x509', '-newkey', 'ec', '-pkeyopt', 'ec_paramgen_curve:P-256', '-nodes', '-days', '2'],
    ...['-subj', '/CN=other', '-keyout', join(folder, 'other.key'), '-out', path],
  ]);
  return path;
}

test('leftovers of a month go, also of the process number that a container gives each; what is used stays', () => {
  const shared = mkdtempSync(join(folder, 'shared-'));
  const days = (count: number): Date => new Date(Date.now() - count * 86_400_000);
  for (const [name, age] of [
    ['polychron-staging-old', 30],
    ['polychron-1-older', 31],
    ['polychron-staging-live', 0.05],
    ['polychron-staging-silent', 0.1],
    ['polychron-home-of-somebody', 90],
    ['uploads', 90],
  ] as const) {
    mkdirSync(join(shared, name, 'inner'), { recursive: true });
    utimesSync(join(shared, name), days(age), days(age));
  }
  const staging = makeStagingFolder(shared);
  expect(readdirSync(shared).sort()).toEqual(
    [
      'polychron-staging-live',
      'polychron-home-of-somebody',
      'uploads',
      staging.path.split('/').at(-1),
    ].sort(),
  );
  staging.remove();
  expect(readdirSync(shared)).toHaveLength(3);
});

test('a lost administrator is appointed anew, closed or not there, and its sign-ins end', async () => {
  await using own = await ownDatabase();
  const appoint = async (account?: string): Promise<string> => {
    await using program = runProgram('commands/administrator.js', {
      args: account === undefined ? [] : [account],
      env: { POLYCHRON_DATABASE_URL: own.url },
    });
    await program.ended;
    return program.printed();
  };
  expect(await appoint('admin')).toContain('The database is not up to date.');
  await migrate(own.db);
  expect(await appoint()).toContain('Say whose account it is');
  const first = await appoint('admin');
  expect(first).toMatch(/^admin is a new account and a system administrator, with the password \S{16}\n/);

  const { program, address } = await serve(own.url);
  await using _ = program;
  await ready(address);
  const signIn = (account: string, password: string): Promise<Response> =>
    fetch(`${address}/api/v1/session`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ account, password }),
    });
  const passwordIn = (printed: string): string => /password (\S+)/.exec(printed)?.[1] ?? '';
  const session = await signIn('admin', passwordIn(first));
  expect(session.status).toBe(200);
  const cookie = session.headers.getSetCookie()[0]?.split(';')[0] ?? '';
  await run(own.db, `UPDATE people SET closed_at = NOW(), system_administrator = FALSE`, {});
  const again = await appoint('admin');
  expect(again).toMatch(/^admin is a system administrator, with the password/);
  expect((await fetch(`${address}/api/v1/session`, { headers: { cookie } })).status).toBe(401);
  expect((await signIn('admin', passwordIn(first))).status).toBe(401);
  const back = await signIn('admin', passwordIn(again));
  expect(await back.json()).toMatchObject({ systemAdministrator: true });
});

test('only the command that names the database empties it, and while nobody uses it', async () => {
  await using own = await ownDatabase();
  const name = new URL(own.url).pathname.slice(1);
  const empty = async (...args: string[]): Promise<string> => {
    await using program = runProgram('commands/empty.js', { args, env: { POLYCHRON_DATABASE_URL: own.url } });
    await program.ended;
    return program.printed();
  };
  expect(await empty()).toBe(`The database ${name} holds nothing.\n`);
  await migrate(own.db);
  const context = contextOn(own.url);
  await setPassword(context, await addPerson(context, { account: 'one', name: 'One' }), 'a cable');
  await closeContext(context);
  const asks = `polychron: The database ${name} holds 0 documents, 0 versions and 1 account. To lose all of it for good: npm run empty -- ${name}\n`;
  expect(await empty()).toBe(asks);
  expect(await empty('polychron')).toBe(asks);
  expect(await empty(name)).toContain('other connections use the database');
  await own.db.close();
  expect(await empty(name)).toBe(
    `The database ${name} is empty. It held 0 documents, 0 versions and 1 account.\n`,
  );
  expect(await empty(name)).toBe(`The database ${name} holds nothing.\n`);
});

test('only a database that has never held anything is filled, and one of somebody’s own only when told with what', async () => {
  await using own = await ownDatabase();
  const load = async (...args: string[]): Promise<string> => {
    const env = { POLYCHRON_DATABASE_URL: own.url, POLYCHRON_STAGING: folder };
    await using program = runProgram('../../demo/dist/load.js', { args, env });
    await program.ended;
    return program.printed();
  };
  const accounts = async (): Promise<string[]> =>
    (await rows<{ account: string }>(own.db, 'SELECT account FROM people', {})).map(({ account }) => account);
  expect(await load()).toMatch(/^polychron: The database has never held anything\. Say what it begins with:/);
  expect(await hasHeldAnything(own.db)).toBe(false);
  expect(await load('--empty')).toContain('Sign in as admin with the password');
  expect(await accounts()).toEqual(['admin']);
  // Where all sign in by a provider nobody has a password; nothing of theirs is lost.
  await run(own.db, `UPDATE people SET account = 'somebody', password_hash = ''`, {});
  for (const args of [[], ['--demo'], ['--empty']]) expect(await load(...args)).toBe('');
  expect(await accounts()).toEqual(['somebody']);
  // A filling that was killed is not gone on with, and not taken for whole.
  await noteFilling(own, true);
  expect(await load('--demo')).toMatch(/^polychron: The database was being filled when that was cut short/);
  expect(await accounts()).toEqual(['somebody']);
});
