import { randomUUID } from 'node:crypto';
import { type Document, type Group, type Route, routes } from '@polychron/contract';
import request, { type Response } from 'supertest';
import { docxOf } from '../testing/files.ts';
import type { Agent } from '../testing/server.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();
let library: string;
let document: Document;
let group: string;
let session: string;
let theirs: string;
const roles = ['reader', 'auditor', 'author', 'approver', 'controller', 'stranger'] as const;
type Account = (typeof roles)[number];
beforeAll(async () => {
  library = await server.library();
  document = await server.document(library, 'first', { level: 'major' });
  const admin = await server.as('admin');
  await admin.put('/api/v1/clock/confirm');
  group = ((await admin.post('/api/v1/groups').send({ name: 'Crew', people: ['author'] })).body as Group).id;
  for (const account of roles) await server.password(account);
  [session, theirs] = [await signIn('reader'), await signIn('author2')];
});

async function signIn(account: string): Promise<string> {
  await server.password(account);
  const credentials = { account, password: 'correct horse' };
  const answer = await request(server.listener).post('/api/v1/session').send(credentials).expect(200);
  return String(answer.headers['set-cookie']).split(';')[0] ?? '';
}

const rulebook = { numbering: 'stepped', checkInComment: 'optional', reason: 'Because' };
/**
 * What each writing route beside those about documents is sent, so that it does what it is for, where one
 * may.
 */
const bodies: Record<string, object> = {
  mapProvider: {},
  changePassword: { present: 'correct horse', next: 'battery staple' },
  endOtherSessions: {},
  endSession: {},
  makeToken: { name: 'x' },
  revokeToken: {},
  confirmTime: {},
  createLibrary: { name: 'Another', code: 'AN' },
  changeLibrary: { name: 'Renamed' },
  setMembers: [{ account: 'controller', roles: ['controller'] }],
  changeRulebook: rulebook,
  consequences: { numbering: 'stepped' },
  cancelJob: {},
  addPerson: { account: 'new', name: 'N. New', password: 'long enough' },
  changePerson: { closed: true },
  endSessionsOf: {},
  endSessionOf: {},
  revokeTokensOf: {},
  revokeTokenOf: {},
  addGroup: { name: 'Others' },
  changeGroup: { name: 'Renamed', people: [] },
  removeGroup: {},
  createDocument: { fields: '{"title":"T"}', comment: 'c', level: 'minor' },
  readNotices: { upTo: '1' },
  chooseMail: { mail: 'daily' },
  answerMessage: { text: 'approve' },
  lookedAtInForce: { at: '2026-01-01T00:00:00Z' },
  addDeskFile: {},
  saveDeskFile: {},
  removeDeskFile: {},
  bringIn: { comment: 'c' },
  saveFromDesk: { document: randomUUID() },
  registerDeskFile: { library: randomUUID(), fields: { title: 'T' }, comment: 'c' },
  bulk: { act: 'checkOut', documents: [randomUUID()] },
};
/** Who is let through by the routes of a library and of the site; nobody else is. */
const allowed: Record<string, readonly Account[]> = {
  createDocument: ['author', 'controller'],
  changeLibrary: ['controller'],
  setMembers: ['controller'],
  changeRulebook: ['controller'],
  consequences: ['controller'],
  addDeskFile: ['author', 'controller'],
  confirmTime: ['controller'],
};
/** About oneself: everybody may, and reaches nothing but one's own. */
const ofOneself = [
  'changePassword',
  'endOtherSessions',
  'endSession',
  'makeToken',
  'revokeToken',
  'cancelJob',
  'readNotices',
  'chooseMail',
  'answerMessage',
  'lookedAtInForce',
  'saveDeskFile',
  'removeDeskFile',
  'bringIn',
  'saveFromDesk',
  'registerDeskFile',
  'bulk',
];
const all = Object.entries(routes as Record<string, Route>);
const writing = all.filter(
  ([, { method, open, path }]) => method !== 'get' && !open && !path.startsWith('/documents/{id}'),
);

/** The address of a route about what there is, or about a library there is not. */
function addressOf({ path }: Route, libraryId = library): string {
  const ids: [string, string][] = [
    ['/libraries/', libraryId],
    ['/groups/', group],
    ['/people/', 'author2'],
    ['/documents/', document.id],
  ];
  const id = ids.find(([start]) => path.startsWith(start))?.[1] ?? randomUUID();
  const filled = path
    .replace('{id}', id)
    .replace('{position}', '1')
    .replace('{v}', '1.0')
    .replace('{part}', 'x.png');
  return `/api/v1${filled.replace(/\{\w+\}/, randomUUID())}`;
}

function send(agent: Agent, [name, route]: [string, Route], address: string): request.Test {
  const asked = agent[route.method](address);
  const body = bodies[name] ?? {};
  if (route.method === 'get') return asked;
  if (route.sends === 'bytes') return asked.set('Content-Type', 'application/octet-stream').send(docxOf('x'));
  if (route.sends !== 'form') return asked.send(route.sends === 'json' ? body : undefined);
  return asked.field(body as Record<string, string>).attach('file', docxOf('mine'), 'op.docx');
}

/** All that the site and the library hold that an act without rights could have changed. */
async function held(): Promise<string> {
  const { models } = server.context;
  const people = await models.Person.findAll({ order: ['id'] });
  const rows = [
    people,
    await models.Group.findAll({ order: ['id'] }),
    await models.GroupPerson.findAll({ order: ['groupId', 'personId'] }),
    await models.Library.findAll({ order: ['id'] }),
    await models.Member.findAll({ order: ['libraryId', 'personId', 'role'] }),
    await models.RulebookRevision.findAll({ order: ['libraryId', 'revision'] }),
    await models.Document.findAll({ order: ['id'] }),
    await models.Version.findAll({ order: ['id'] }),
    await models.DeskFile.findAll({ order: ['id'] }),
    await models.Session.findAll({ where: { personId: (await server.caller('author2')).id } }),
    await models.Ledger.count(),
  ];
  return JSON.stringify(rows);
}

test('there is a body for every writing route, and it is said who may', () => {
  expect(writing.map(([name]) => name).sort()).toEqual(Object.keys(bodies).sort());
});

test.each(roles)('%s is let through by no route of a library or the site but their own', async (account) => {
  const agent = await server.as(account);
  const before = await held();
  for (const each of writing) {
    const [name, route] = each;
    if (ofOneself.includes(name) || allowed[name]?.includes(account)) continue;
    const { status, body } = (await send(agent, each, addressOf(route))) as Response;
    const codes = ['role-missing', 'not-administrator', 'library-not-found', 'group-not-found'];
    expect([name, status, codes.includes((body as { code: string }).code)]).toEqual([
      name,
      account === 'stranger' && route.path.startsWith('/libraries/') ? 404 : 403,
      true,
    ]);
  }
  expect(await held()).toBe(before);
});

test('to a stranger a library is answered as one that does not exist, whatever is asked or sent', async () => {
  const stranger = await server.as('stranger');
  const nothing = randomUUID();
  for (const each of all.filter(([, { path }]) => path.startsWith('/libraries/{id}'))) {
    const there = await send(stranger, each, addressOf(each[1]));
    const nowhere = await send(stranger, each, addressOf(each[1], nothing));
    const told = ({ status, text }: Response, id: string): string =>
      `${each[0]} ${status} ${text.replaceAll(id, 'ID')}`;
    expect(told(there, library)).toBe(told(nowhere, nothing));
  }
});

test('no route but the open ones answers without a sign-in that holds: none, ended, revoked, over, closed', async () => {
  const bearer = (secret: string) => request.agent(server.listener).set('Authorization', `Bearer ${secret}`);
  const admin = await server.as('admin');
  const tokenOf = async (account: string, body: object = {}) =>
    (
      await (
        await server.as(account)
      )
        .post('/api/v1/tokens')
        .send({ name: 'x', ...body })
        .expect(201)
    ).body as {
      id: string;
      token: string;
    };
  const revoked = await tokenOf('reader');
  await (await server.as('reader')).delete(`/api/v1/tokens/${revoked.id}`).expect(204);
  const over = await tokenOf('reader', { until: new Date(server.now.getTime() + 60_000).toISOString() });
  const closed = await tokenOf('author2');
  server.pass(1);
  await request(server.listener).delete('/api/v1/session').set('Cookie', session).expect(204);
  await admin.patch('/api/v1/people/author2').send({ closed: true }).expect(200);
  const agents = {
    none: request.agent(server.listener),
    ended: request.agent(server.listener).set('Cookie', session),
    invented: request.agent(server.listener).set('Cookie', 'polychron_session=x'),
    closed: request.agent(server.listener).set('Cookie', theirs),
    revoked: bearer(revoked.token),
    over: bearer(over.token),
    closedToken: bearer(closed.token),
    inventedToken: bearer('poly_x'),
  };
  const before = await held();
  for (const each of all.filter(([, { open }]) => !open)) {
    for (const [how, agent] of Object.entries(agents)) {
      const { status, body } = (await send(agent, each, addressOf(each[1]))) as Response;
      expect([each[0], how, status, (body as { code: string }).code]).toEqual([
        each[0],
        how,
        401,
        'not-signed-in',
      ]);
    }
  }
  expect(await held()).toBe(before);
});

test('a token that only reads is let through by every reading route as its owner, and changes nothing anywhere', async () => {
  const made = await (
    await server.as('controller')
  )
    .post('/api/v1/tokens')
    .send({ name: 'x', scope: 'read' });
  const agent = request
    .agent(server.listener)
    .set('Authorization', `Bearer ${(made.body as { token: string }).token}`);
  const before = await held();
  for (const each of all) {
    const [name, { method, path, open }] = each;
    if (open || path === '/events') continue;
    const answer = await send(agent, each, addressOf(each[1]));
    if (method !== 'get')
      expect([name, (answer.body as { code: string }).code]).toEqual([name, 'token-reads-only']);
    else expect([name, [401, 500].includes(answer.status)]).toEqual([name, false]);
  }
  expect(await held()).toBe(before);
});
