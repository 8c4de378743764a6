import request from 'supertest';
import type * as contract from '@polychron/contract';
import { Provider } from '../access/provider.ts';
import { signInByProvider } from '../acts/signInByProvider.ts';
import { TestProvider } from '../testing/provider.ts';
import { TestServer } from '../testing/server.ts';

/** Nothing listens here: where the provider leads is asked of the server directly. */
const publicUrl = 'http://127.0.0.1:9';
let server: TestServer;
let provider: TestProvider;
beforeAll(async () => {
  provider = await TestProvider.start(publicUrl);
});
afterAll(() => provider.stop());
beforeEach(async () => {
  server = await TestServer.start();
  server.context.signIn = { passwords: true, provider: new Provider(provider.place) };
});
afterEach(() => server.stop());

const pathOf = ({ pathname, search }: URL): string => `${pathname}${search}`;
const mapped = async (mapping: object): Promise<void> => {
  await (await server.as('admin')).put('/api/v1/provider').send(mapping).expect(200);
};
const begin = () => request(server.listener).get('/api/v1/session/provider?to=/desk');
const cookieOf = (answer: request.Response, name: string): string =>
  ([answer.headers['set-cookie'] ?? []].flat() as string[]).find((each) => each.startsWith(`${name}=`)) ?? '';
/** Signs somebody in from end to end; where it led, and the session's cookie. */
async function signIn(login: string): Promise<{ to: string; cookie: string }> {
  const begun = await begin().expect(302);
  const back = await provider.signIn(String(begun.headers['location']), login);
  const answer = await request(server.listener)
    .get(pathOf(back))
    .set('Cookie', cookieOf(begun, 'polychron_provider').split(';')[0] ?? '')
    .expect(302);
  return { to: String(answer.headers['location']), cookie: cookieOf(answer, 'polychron_session') };
}
const sessionBy = async (cookie: string): Promise<contract.Session> =>
  (await request(server.listener).get('/api/v1/session').set('Cookie', cookie).expect(200))
    .body as contract.Session;
const groups = async (): Promise<Record<string, string[]>> => {
  const { body } = await (await server.as('admin')).get('/api/v1/groups').expect(200);
  return Object.fromEntries(
    (body as { items: contract.Group[] }).items.map(({ name, people }) => [
      name,
      people.map(({ account }) => account),
    ]),
  );
};

test('an account is made from the claims where an administrator lets it, and is the same one the next time', async () => {
  expect((await signIn('meyer')).to).toBe('/sign-in?refused=account-unmapped');
  await mapped({ makeAccounts: true, accountClaim: 'email' });
  expect((await signIn('meyer')).to).toBe('/sign-in?refused=claims-unfit');
  await mapped({ makeAccounts: true });
  const first = await signIn('meyer');
  expect(first.to).toBe('/desk');
  expect(first.cookie).toMatch(/HttpOnly; SameSite=Lax/);
  expect(await sessionBy(first.cookie)).toMatchObject({
    account: 'meyer',
    name: 'M. eyer',
    systemAdministrator: false,
  });
  await mapped({ makeAccounts: false });
  const again = await signIn('meyer');
  expect(await sessionBy(again.cookie)).toMatchObject({ account: 'meyer' });
  const people = await (await server.as('admin')).get('/api/v1/people?q=meyer').expect(200);
  expect(people.body).toMatchObject({ total: 1 });
});

test('an account that is there is nobody’s by its name alone, unless an administrator lets it be linked', async () => {
  await server.password('author');
  await mapped({ makeAccounts: true });
  const refused = await signIn('author');
  expect(refused).toEqual({ to: '/sign-in?refused=account-taken', cookie: '' });
  await mapped({ linkAccounts: true });
  const linked = await signIn('author');
  expect(await sessionBy(linked.cookie)).toMatchObject({ account: 'author', name: 'A. author' });
  const admin = await server.as('admin');
  await admin.patch('/api/v1/people/author').send({ closed: true }).expect(200);
  expect((await signIn('author')).to).toBe('/sign-in?refused=account-closed');
});

test('mapped groups follow the claims: made, joined, left; others are let alone; a last controller stays', async () => {
  const admin = await server.as('admin');
  await mapped({
    makeAccounts: true,
    groups: [
      { value: 'rescue', group: 'Rescue team' },
      { value: 'drivers', group: 'Drivers' },
    ],
  });
  const signInAs = async (name: string, told?: string[]) => {
    await provider.tell(name, told);
    expect((await signIn(name)).to).toBe('/desk');
  };
  await signInAs('weber', ['rescue', 'unknown']);
  expect(await groups()).toEqual({ 'Rescue team': ['weber'] });
  await admin
    .post('/api/v1/groups')
    .send({ name: 'Quiet ones', people: ['weber'] })
    .expect(201);
  await signInAs('weber', ['drivers']);
  expect(await groups()).toEqual({ 'Rescue team': [], Drivers: ['weber'], 'Quiet ones': ['weber'] });
  await signInAs('weber');
  expect((await groups())['Drivers']).toEqual(['weber']);
  const library = (await admin.post('/api/v1/libraries').send({ name: 'Drivers', code: 'DR' }).expect(201))
    .body as contract.Library;
  await admin
    .put(`/api/v1/libraries/${library.id}/members`)
    .send([{ group: 'Drivers', roles: ['controller'] }])
    .expect(200);
  await signInAs('weber', []);
  expect((await groups())['Drivers']).toEqual(['weber']);
  await signInAs('huber', ['drivers']);
  await signInAs('weber', []);
  expect((await groups())['Drivers']).toEqual(['huber']);
});

test('what was not begun in this browser, comes twice, or was meant for another is no sign-in', async () => {
  await mapped({ makeAccounts: true });
  const begun = await begin().expect(302);
  const cookie = cookieOf(begun, 'polychron_provider');
  expect(cookie).toMatch(/HttpOnly; SameSite=Lax/);
  const asked = new URL(String(begun.headers['location']));
  expect(asked.searchParams.get('code_challenge_method')).toBe('S256');
  expect(asked.searchParams.get('redirect_uri')).toBe(`${publicUrl}/api/v1/session/provider/return`);
  const back = pathOf(await provider.signIn(asked.href, 'meyer'));
  const other = cookieOf(await begin().expect(302), 'polychron_provider').split(';')[0] ?? '';
  const by = async (path: string, pair: string) => {
    const answer = await request(server.listener).get(path).set('Cookie', pair).expect(302);
    return [String(answer.headers['location']), cookieOf(answer, 'polychron_session') !== ''];
  };
  const refused = ['/sign-in?refused=provider-refused', false];
  const own = cookie.split(';')[0] ?? '';
  expect(await by(back, '')).toEqual(refused);
  expect(await by(back, other)).toEqual(refused);
  expect(await by(back, 'polychron_provider=nonsense')).toEqual(refused);
  expect(await by(back.replace(/code=[^&]+/, 'code=guessed'), own)).toEqual(refused);
  expect(await by(back.replace(/state=[^&]+/, 'state=guessed'), own)).toEqual(refused);
  expect(await by(back, own)).toEqual(['/desk', true]);
  expect(await by(back, own)).toEqual(refused);
  for (const to of ['//elsewhere.test', '/\\elsewhere.test', 'https://elsewhere.test', 'desk']) {
    await request(server.listener).get('/api/v1/session/provider').query({ to }).expect(422);
  }
});

test('a cookie that was made up is no sign-in, whatever it says', async () => {
  for (const value of [
    'null',
    '1',
    '[]',
    '{}',
    '{"state":1}',
    '"x"',
    '{"state":"","nonce":"","verifier":"","to":"//x"}',
  ]) {
    const made = `polychron_provider=${Buffer.from(value).toString('base64url')}`;
    const answer = await request(server.listener)
      .get('/api/v1/session/provider/return?code=a&state=b')
      .set('Cookie', made)
      .expect(302);
    expect(answer.headers['location']).toBe('/sign-in?refused=provider-refused');
  }
});

const claimed = (subject: string, claims: object) => ({
  issuer: 'https://provider.example',
  subject,
  claims: { preferred_username: subject, ...claims },
});

test('people who sign in at once are in the groups that their claims name, and in no other', async () => {
  const groupNames = ['Rescue team', 'Drivers'];
  await mapped({ makeAccounts: true, groups: groupNames.map((group) => ({ value: group, group })) });
  const people = Array.from({ length: 12 }, (_, index) => `person${index}`);
  for (const turn of [0, 1, 2]) {
    const of = (index: number): string[] => groupNames.filter((_, at) => (index + at + turn) % 2 === 0);
    // Each from two browsers; those who come for the first time make accounts and groups together.
    await Promise.all(
      [...people, ...people].map((name, index) =>
        signInByProvider(server.context, claimed(name, { groups: of(index % people.length) })),
      ),
    );
    const present = await groups();
    for (const group of groupNames) {
      const wanted = people.filter((_, index) => of(index).includes(group));
      expect(present[group]?.sort()).toEqual(wanted.sort());
    }
  }
});

test.each([[undefined], [false], ['false'], [0], [null], ['yes'], [1]])(
  'an address that is verified by nobody (%p) is no account, whoever has it',
  async (email_verified) => {
    await server.caller('chief@valley.example');
    await mapped({ linkAccounts: true, accountClaim: 'email' });
    const told = claimed('s', { email: 'chief@valley.example', email_verified });
    await expect(signInByProvider(server.context, told)).rejects.toMatchObject({
      refusal: { code: 'claims-unfit' },
    });
    for (const verified of [true, 'true']) {
      const sure = claimed(`s${String(verified)}${typeof verified}`, { email: 'chief@valley.example' });
      Object.assign(sure.claims, { email_verified: verified });
      expect((await signInByProvider(server.context, sure)).secret).toBeTruthy();
    }
  },
);

test('a subject that the standard does not allow is refused, not an error', async () => {
  await mapped({ makeAccounts: true });
  for (const subject of ['mäyer', '', 'x'.repeat(256), 'a\nb']) {
    const told = { ...claimed('fine', {}), subject };
    await expect(signInByProvider(server.context, told)).rejects.toMatchObject({
      refusal: { code: 'claims-unfit' },
    });
  }
});

test('passwords can be switched off; a provider that is away is said so', async () => {
  await server.password('author');
  const ways = async () =>
    (await request(server.listener).get('/api/v1/session/ways').expect(200)).body as object;
  expect(await ways()).toEqual({ passwords: true, provider: 'Ropeway sign-in', demo: null });
  const away = new Provider({ ...provider.place, issuer: publicUrl });
  server.context.signIn = { passwords: false, provider: away };
  expect(await ways()).toEqual({ passwords: false, provider: 'Ropeway sign-in', demo: null });
  const credentials = { account: 'author', password: 'correct horse' };
  const refused = { status: 403, code: 'passwords-off' };
  expect((await request(server.listener).post('/api/v1/session').send(credentials)).body).toMatchObject(
    refused,
  );
  const author = await server.as('author');
  const change = { present: 'correct horse', next: 'battery staple' };
  expect((await author.put('/api/v1/session/password').send(change)).body).toMatchObject(refused);
  expect((await begin().expect(302)).headers['location']).toBe('/sign-in?refused=provider-away');
  server.context.signIn = { passwords: true, provider: null };
  expect((await begin().expect(302)).headers['location']).toBe('/sign-in?refused=no-provider');
  expect((await author.get('/api/v1/provider')).body).toMatchObject({
    status: 403,
    code: 'not-administrator',
  });
  expect((await author.put('/api/v1/provider').send({})).body).toMatchObject({
    status: 403,
    code: 'not-administrator',
  });
});
