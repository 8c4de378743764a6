import request from 'supertest';
import type * as contract from '@polychron/contract';
import { hashPassword, verifyPassword } from '../access/passwords.ts';
import { sweep } from '../jobs/sweeps.ts';
import { createApp } from './app.ts';
import { TestServer } from '../testing/server.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
  await server.password('author');
  await server.caller('locked');
});
afterAll(async () => {
  await server.stop();
});

const signIn = (account: string, password: string) =>
  request(server.listener).post('/api/v1/session').send({ account, password });

test('signing in sets an HttpOnly, SameSite cookie that opens a session and closes it again', async () => {
  const answer = await signIn('Author ', 'correct horse').expect(200);
  const cookie = String(answer.headers['set-cookie']);
  expect(cookie).toMatch(/^polychron_session=[\w-]{43};.*HttpOnly.*SameSite=Lax/i);
  expect(answer.body).toMatchObject({ account: 'author', systemAdministrator: false });
  const pair = cookie.split(';')[0] as string;
  expect(
    (await request(server.listener).get('/api/v1/session').set('Cookie', pair).expect(200)).body,
  ).toMatchObject({ account: 'author' });
  const rows = await server.context.models.Session.findAll();
  expect(rows.every((row) => !pair.includes(row.tokenHash))).toBe(true);
  await request(server.listener).delete('/api/v1/session').set('Cookie', pair).expect(204);
  await request(server.listener).get('/api/v1/session').set('Cookie', pair).expect(401);
});

test('a session ends by itself', async () => {
  const pair = String((await signIn('author', 'correct horse')).headers['set-cookie']).split(
    ';',
  )[0] as string;
  server.pass(24 * 6 - 1);
  await request(server.listener).get('/api/v1/session').set('Cookie', pair).expect(200);
  server.pass(2);
  await request(server.listener).get('/api/v1/session').set('Cookie', pair).expect(401);
});

test('wrong password, unknown account and an account without password are refused alike', async () => {
  const answers = [
    await signIn('author', 'wrong'),
    await signIn('nobody', 'wrong'),
    await signIn('locked', ''),
  ].map(({ status, body }) => [status, (body as contract.Problem).code]);
  expect(answers).toEqual([
    [401, 'sign-in-failed'],
    [401, 'sign-in-failed'],
    [422, 'invalid-input'],
  ]);
  expect((await signIn('locked', 'x')).body).toMatchObject({ status: 401, code: 'sign-in-failed' });
});

test('a page of another site cannot act with the cookie', async () => {
  const pair = String((await signIn('author', 'correct horse')).headers['set-cookie']).split(
    ';',
  )[0] as string;
  const foreign = await request(server.listener)
    .post('/api/v1/tokens')
    .set('Cookie', pair)
    .set('Sec-Fetch-Site', 'cross-site')
    .send({ name: 'stolen' });
  expect(foreign.body).toMatchObject({ status: 403, code: 'foreign-page' });
});

test('a personal token works until it is revoked, and only its owner revokes it', async () => {
  const author = await server.as('author');
  const made = (await author.post('/api/v1/tokens').send({ name: 'nightly script' }).expect(201)).body as {
    id: string;
    token: string;
  };
  const byToken = () =>
    request(server.listener).get('/api/v1/session').set('Authorization', `Bearer ${made.token}`);
  expect((await byToken().expect(200)).body).toMatchObject({ account: 'author', expires: null });
  const list = (await author.get('/api/v1/tokens').expect(200)).body as {
    items: { id: string; name: string; lastUsedAt: string | null }[];
  };
  expect(list.items.find(({ id }) => id === made.id)).toMatchObject({
    name: 'nightly script',
    lastUsedAt: server.now.toISOString(),
  });
  expect(JSON.stringify(list)).not.toContain(made.token);
  await (await server.as('other')).delete(`/api/v1/tokens/${made.id}`).expect(404);
  await author.delete(`/api/v1/tokens/${made.id}`).expect(204);
  await byToken().expect(401);
});

test('passwords are kept as scrypt hashes with a salt of their own', async () => {
  const [one, two] = [await hashPassword('same'), await hashPassword('same')];
  expect(one).toMatch(/^scrypt\$32768\$8\$3\$/);
  expect(one).not.toBe(two);
  expect(await verifyPassword('same', one)).toBe(true);
  expect(await verifyPassword('Same', one)).toBe(false);
});

test('an account is matched by every sign: not without accents, nor with a space or sign that cannot be seen', async () => {
  for (const account of ['Author', ' author '])
    expect((await signIn(account, 'correct horse')).status).toBe(200);
  for (const account of ['authör', 'author\u0000', 'author\u200b'])
    expect((await signIn(account, 'correct horse')).status).toBe(401);
  const admin = await server.as('admin');
  const wanted = { name: 'A', password: 'long enough', systemAdministrator: false };
  for (const account of ['a b', 'a\u200bb', 'a\u0000'])
    expect((await admin.post('/api/v1/people').send({ ...wanted, account })).status).toBe(422);
});

test('sessions that are over are cleared', async () => {
  await signIn('author', 'correct horse').expect(200);
  const count = () => server.context.models.Session.count();
  expect(await count()).toBeGreaterThan(0);
  server.pass(24 * 6 + 1);
  await sweep(server.context);
  expect(await count()).toBe(0);
});

test("one lists and ends one's own sessions, and changes one's password, which ends those elsewhere", async () => {
  const cookieOf = async (password: string): Promise<string> =>
    String((await signIn('author', password).expect(200)).headers['set-cookie']).split(';')[0] as string;
  const by = (cookie: string) => ({
    get: (path: string) => request(server.listener).get(`/api/v1${path}`).set('Cookie', cookie),
    put: (path: string, body: object) =>
      request(server.listener).put(`/api/v1${path}`).set('Cookie', cookie).send(body),
    end: (path: string) => request(server.listener).delete(`/api/v1${path}`).set('Cookie', cookie),
  });
  const [here, there, third] = [
    by(await cookieOf('correct horse')),
    by(await cookieOf('correct horse')),
    by(await cookieOf('correct horse')),
  ];
  const sessions = async () => ((await here.get('/sessions').expect(200)).body as contract.SessionList).items;
  expect((await sessions()).filter((one) => one.here)).toHaveLength(1);
  expect(JSON.stringify(await sessions())).not.toMatch(/[0-9a-f]{64}/);
  const present = ((await there.get('/sessions')).body as contract.SessionList).items.find((one) => one.here);
  await (await server.as('other')).delete(`/api/v1/sessions/${present?.id}`).expect(404);
  await there.get('/session').expect(200);
  await here.end(`/sessions/${present?.id}`).expect(204);
  await there.get('/session').expect(401);
  const author = await server.as('author');
  const change = { present: 'correct horse', next: 'battery staple' };
  expect((await here.put('/session/password', { ...change, present: 'x' })).body).toMatchObject({
    status: 422,
    code: 'wrong-password',
  });
  expect((await here.put('/session/password', { ...change, next: 'short' })).body).toMatchObject({
    code: 'invalid-input',
  });
  await here.put('/session/password', change).expect(204);
  await here.get('/session').expect(200);
  await third.get('/session').expect(401);
  await author.get('/api/v1/session').expect(200);
  expect((await signIn('author', 'correct horse')).status).toBe(401);
  expect(await sessions()).toHaveLength(1);
  await here.put('/session/password', { present: 'battery staple', next: 'correct horse' }).expect(204);
});

test('behind a trusted proxy that ends TLS the cookie is Secure; nobody else is believed', async () => {
  const credentials = { account: 'author', password: 'correct horse' };
  const cookieBy = async (app: typeof server.app): Promise<string> => {
    const asked = request(app).post('/api/v1/session').set('X-Forwarded-Proto', 'https');
    return String((await asked.send(credentials).expect(200)).headers['set-cookie']);
  };
  expect(await cookieBy(createApp(server.context, { trustProxy: 'loopback' }))).toMatch(/; Secure/);
  expect(await cookieBy(createApp(server.context, { trustProxy: 1 }))).toMatch(/; Secure/);
  expect(await cookieBy(createApp(server.context, { trustProxy: '192.0.2.1' }))).not.toMatch(/; Secure/);
  expect(await cookieBy(server.app)).not.toMatch(/; Secure/);
});

test('wrong sign-ins are slowed by account and address together; the right password is let in, elsewhere at once', async () => {
  const app = createApp(server.context, { trustProxy: 'loopback' });
  const tried = async (from: string, account: string, password: string) => {
    const start = performance.now();
    const asked = request(app).post('/api/v1/session').set('X-Forwarded-For', from);
    const { status } = await asked.send({ account, password });
    return { status, took: performance.now() - start };
  };
  const wrong = [];
  for (let tries = 0; tries < 7; tries += 1) wrong.push(await tried('192.0.2.1', 'author', 'x'));
  expect(new Set(wrong.map(({ status }) => status))).toEqual(new Set([401]));
  expect(wrong[6]?.took).toBeGreaterThan(900);
  const elsewhere = await tried('192.0.2.2', 'author', 'correct horse');
  expect(elsewhere.status).toBe(200);
  const here = await tried('192.0.2.1', 'author', 'correct horse');
  expect(here.status).toBe(200);
  expect(here.took).toBeGreaterThan(1400);
  const other = await tried('192.0.2.1', 'other', 'x');
  // A busy machine slows all of them alike; what is waited for comes on top.
  for (const { took } of [elsewhere, other]) expect(took).toBeLessThan(here.took - 500);
});

test('whoever says that they are a proxy, or stands before one, is counted by where they come from', async () => {
  /** How many tries are left after three that name other places. */
  const left = async (trustProxy: number | undefined, from: (n: number) => string): Promise<string> => {
    const app = createApp(server.context, trustProxy === undefined ? {} : { trustProxy });
    let said = '';
    for (const n of [1, 2, 3]) {
      const told = { Forwarded: `for=192.0.2.${n}`, 'X-Real-IP': `192.0.2.${n}` };
      const asked = request(app)
        .post('/api/v1/session')
        .set({ 'X-Forwarded-For': from(n), ...told });
      const { headers } = await asked.send({ account: 'nobody at all', password: 'x' });
      said = String(headers['ratelimit']);
    }
    return /"30-in-1min"; r=(\d+)/.exec(said)?.[1] ?? said;
  };
  expect(await left(undefined, (n) => `192.0.2.${n}`)).toBe('27');
  // The proxy writes whom it heard behind what that one said.
  expect(await left(1, (n) => `192.0.2.${n}, 203.0.113.7`)).toBe('27');
  expect(await left(1, (n) => `203.0.113.7, 192.0.2.${n}`)).toBe('29');
});

test('tries that pile up are refused for a minute', async () => {
  const app = createApp(server.context);
  const wrong = { account: 'nobody', password: 'x' };
  const tries = Array.from({ length: 34 }, () => request(app).post('/api/v1/session').send(wrong));
  const answers = await Promise.all(tries);
  const codes = answers.map(({ body }) => (body as contract.Problem).code);
  expect(codes.filter((code) => code === 'too-many-sign-ins')).toHaveLength(4);
  const refused = answers.find(({ status }) => status === 429);
  expect(Number(refused?.headers['retry-after'])).toBeGreaterThan(0);
});

test('a token that reads changes nothing; one that is over is no sign-in, and makes none that outlasts it', async () => {
  const author = await server.as('author');
  const make = async (token: object, agent = author) =>
    (await agent.post('/api/v1/tokens').send({ name: 'script', ...token })).body as contract.Token &
      contract.Problem & { token: string };
  const by = (secret: string) => request.agent(server.listener).set('Authorization', `Bearer ${secret}`);
  const reads = await make({ scope: 'read' });
  expect(reads).toMatchObject({ scope: 'read', until: null });
  await by(reads.token).get('/api/v1/session').expect(200);
  for (const [method, path] of [
    ['post', '/tokens'],
    ['put', '/session/password'],
    ['patch', '/people/author'],
    ['delete', '/sessions'],
  ] as const) {
    const refused = await by(reads.token)[method](`/api/v1${path}`).send({ name: 'x' });
    expect(refused.body).toMatchObject({ status: 403, code: 'token-reads-only' });
  }
  const hour = new Date(server.now.getTime() + 3_600_000).toISOString();
  expect(await make({ until: server.now.toISOString() })).toMatchObject({ code: 'moment-past' });
  const short = await make({ until: hour });
  expect(short).toMatchObject({ scope: 'work', until: hour });
  expect(await make({}, by(short.token))).toMatchObject({ status: 403, code: 'token-outlives' });
  expect(await make({ until: hour }, by(short.token))).toMatchObject({ until: hour });
  await by(short.token).get('/api/v1/session').expect(200);
  server.pass(1);
  await by(short.token).get('/api/v1/session').expect(401);
});

test("a system administrator sees and ends others' sign-ins; nobody else does", async () => {
  await server.password('other');
  const cookie = String((await signIn('other', 'correct horse')).headers['set-cookie']).split(';')[0] ?? '';
  const [author, admin, other] = [
    await server.as('author'),
    await server.as('admin'),
    await server.as('other'),
  ];
  const paths = ['/api/v1/people/other/sessions', '/api/v1/people/other/tokens'];
  for (const path of paths) {
    expect((await author.get(path)).body).toMatchObject({ status: 403, code: 'not-administrator' });
    expect((await author.delete(path)).body).toMatchObject({ status: 403, code: 'not-administrator' });
    expect((await admin.get(path.replace('other', 'nobody'))).body).toMatchObject({
      code: 'person-not-found',
    });
  }
  const sessions = (await admin.get(paths[0] ?? '').expect(200)).body as contract.SessionList;
  await request(server.listener).get('/api/v1/session').set('Cookie', cookie).expect(200);
  expect(sessions.total).toBeGreaterThan(0);
  expect(sessions.items.every(({ here }) => !here)).toBe(true);
  for (const { id } of sessions.items) await admin.delete(`${paths[0]}/${id}`).expect(204);
  await request(server.listener).get('/api/v1/session').set('Cookie', cookie).expect(401);
  await other.get('/api/v1/session').expect(200);
  await admin.delete(paths[1] ?? '').expect(204);
  await other.get('/api/v1/session').expect(401);
  expect((await admin.get(paths[1] ?? '').expect(200)).body).toMatchObject({ items: [], total: 0 });
});
