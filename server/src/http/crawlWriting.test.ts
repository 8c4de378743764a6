import { randomUUID } from 'node:crypto';
import { type Document, type Route, routes } from '@polychron/contract';
import type { Response } from 'supertest';
import { docxOf } from '../testing/files.ts';
import { testServer } from '../testing/started.ts';

// One connection: an act that asked for a second one while it holds the first would wait for itself.
const server = testServer({ connections: 1 });
let library: string;
/**
 * Registered and changed since, which readers are not to learn; the same without the change; nothing but a
 * draft.
 */
let changed: Document;
let plain: Document;
let hidden: Document;
beforeAll(async () => {
  library = await server.library();
  plain = await server.document(library, 'first\nsecond\nthird', { level: 'major', title: 'Title' });
  changed = await server.document(library, 'first\nsecond\nthird', { level: 'major', title: 'Title' });
  await server.change(changed.id, 'first\nhush\nthird');
  hidden = await server.document(library, 'hush', { title: 'hush' });
});
afterEach(async () => {
  expect(await server.labels(changed.id)).toEqual(['1.1', '1.0']);
  expect(await server.labels(plain.id)).toEqual(['1.0']);
  expect(await server.labels(hidden.id)).toEqual(['0.1']);
});

/** Who asks about versions in which state: a reader about each, all about all where there is time. */
const asked = ['reader', 'auditor', 'stranger']
  .flatMap((account) => ['inApproval', 'rejected', 'approved'].map((state) => ({ account, state })))
  .filter(
    ({ account, state }) =>
      process.env['POLYCHRON_TEST_RUNS'] !== undefined ||
      account === 'reader' ||
      state === { auditor: 'approved', stranger: 'inApproval' }[account],
  );
const reason = 'Because';
const later = '2026-09-01T00:00:00Z';
const every = ['same-bytes', 'other-name', 'other-type', 'stale-base'];
/** Bodies under which each writing route about a document does what it is for, where one may. */
const bodies: Record<string, object[]> = {
  changeDocument: [{ fields: { title: 'Other' }, comment: 'c' }, { fields: { coAuthors: ['author2'] } }],
  checkOut: [{}, { reason, until: later }],
  prolong: [{ until: later }],
  giveBack: [{}],
  keepForLater: [{}],
  takeBackLock: [{}],
  saveWorkingCopy: [docxOf('x')],
  goBackToSave: [{}],
  lift: [{ reason }],
  checkIn: [{ comment: 'c', level: 'minor', confirm: every.join(',') }],
  restore: [
    { from: '1.0', level: 'minor', comment: 'c' },
    { from: '1.1', level: 'major', comment: 'c' },
  ],
  publish: [{}, { version: '1.1', comment: 'c' }],
  uploadVersion: [
    { basedOn: '1.0', comment: 'c', level: 'minor', confirm: every.join(',') },
    { basedOn: '1.1', comment: 'c', level: 'minor' },
  ],
  submit: [{}, { version: '1.1' }],
  callBack: [{ comment: 'c' }],
  decide: [
    { version: '1.1', decision: 'approve' },
    { version: '1.0', decision: 'reject', comment: 'c' },
  ],
  replaceApprover: [{ from: 'approver', to: 'approver2', reason }],
  markTemplate: [{ type: 'Plan' }],
  setLimit: [{ limit: { people: ['author2'], groups: [] }, reason }],
  distribute: [{ people: ['author2'], groups: [] }],
  remindReaders: [{}],
  confirmRead: [{}],
  review: [
    { outcome: 'confirmed', nextBy: '2099-01-01' },
    { outcome: 'opened', comment: 'c' },
  ],
  void: [{ reason }],
  unvoid: [{ reason }],
  withdraw: [{ reason }, { version: '0.1', reason }, { version: '1.0', reason }],
  reinstate: [
    { version: '0.1', reason },
    { version: '1.0', reason },
  ],
  reschedule: [{ inForceFrom: null }, { version: '1.1', inForceFrom: null }],
  takeBack: [{}],
  thinVersion: [{ reason }],
  recoverVersion: [{ reason }],
  shelterVersion: [{ reason }],
  unshelterVersion: [{ reason }],
  takeLooseCopy: [{}],
};
const writing = Object.entries(routes as Record<string, Route>).filter(
  ([, { method, path }]) => method !== 'get' && path.startsWith('/documents/{id}'),
);

/** Sends a body as the route wants it. */
async function send(account: string, route: Route, address: string, body: object): Promise<Response> {
  const asked = (await server.as(account))[route.method](`/api/v1${address}`);
  if (route.sends === 'bytes') return asked.set('Content-Type', 'application/octet-stream').send(body);
  if (route.sends !== 'form') return asked.send(route.sends === 'json' ? body : undefined);
  return asked.field(body as Record<string, string>).attach('file', docxOf('mine'), 'op.docx');
}

/** What somebody is told, whichever document it was about. */
function told({ status, text }: Response, { id, number }: { id: string; number: string }): string {
  const same = text.replaceAll(id, 'ID').replaceAll(number, 'NUMBER');
  return `${status} ${same.replace(/"(id|createdAt|changedAt)":"[^"]*"/g, '')}`;
}

/** Every address a route has on a document: the versions that are there, and one that is not. */
const addresses = ({ path }: Route, id: string): string[] =>
  ['1.0', '1.1', '0.1'].map((v) => path.replace('{id}', id).replace('{position}', '1').replace('{v}', v));

test('there is a body for every writing route about a document', () => {
  expect(writing.map(([name]) => name).sort()).toEqual(Object.keys(bodies).sort());
});

test.each(['reader', 'auditor', 'stranger'])(
  'to %s every act on a document with a hidden change is answered as on one without',
  async (account) => {
    await server.as(account);
    for (const [name, route] of writing) {
      for (const body of bodies[name] ?? []) {
        const [there, here] = [addresses(route, changed.id), addresses(route, plain.id)];
        for (const [index, address] of there.entries()) {
          const [one, other] = await Promise.all([
            send(account, route, address, body),
            send(account, route, here[index] as string, body),
          ]);
          expect(`${name} ${told(one, changed)}`).toBe(`${name} ${told(other, plain)}`);
        }
      }
    }
  },
);

test.each(['reader', 'auditor', 'stranger'])(
  'to %s every act on a document of drafts only is answered as on one that does not exist',
  async (account) => {
    await server.as(account);
    const nothing = { id: randomUUID(), number: hidden.number };
    for (const [name, route] of writing) {
      for (const body of bodies[name] ?? []) {
        const [one, other] = await Promise.all([
          send(account, route, addresses(route, hidden.id)[2] as string, body),
          send(account, route, addresses(route, nothing.id)[2] as string, body),
        ]);
        expect(`${name} ${told(one, hidden)}`).toBe(`${name} ${told(other, nothing)}`);
      }
    }
    const bulk = async (id: string) =>
      send(account, routes.bulk as Route, '/bulk', { act: 'checkOut', documents: [id] });
    expect(told(await bulk(hidden.id), hidden)).toBe(told(await bulk(nothing.id), nothing));
  },
);

test('a reader learns nothing of a hidden change by merging a private copy with it or bringing it in', async () => {
  const reader = await server.as('reader');
  const copyOf = async ({ id }: Document): Promise<string> => {
    const copy = await reader.post(`/api/v1/documents/${id}/versions/1.0/loose-copy`).send({}).expect(201);
    const file = copy.body as { id: string };
    await reader
      .put(`/api/v1/desk/files/${file.id}/content`)
      .set('Content-Type', 'application/octet-stream')
      .send(docxOf('first\nguess\nthird'))
      .expect(200);
    return file.id;
  };
  const [ofChanged, ofPlain] = [await copyOf(changed), await copyOf(plain)];
  const guesses = [
    {},
    { choices: {} },
    { choices: {}, latest: '1.0' },
    { choices: {}, latest: '1.1' },
    { choices: { 0: 'mine', 1: 'mine' }, latest: '1.1', comment: 'c', level: 'minor', confirm: every },
    { comment: 'c', level: 'minor', confirm: every },
  ];
  for (const body of guesses) {
    const one = await reader.post(`/api/v1/desk/files/${ofChanged}/bring-in`).send(body);
    const other = await reader.post(`/api/v1/desk/files/${ofPlain}/bring-in`).send(body);
    expect(one.status).toBe(403);
    expect(told(one, changed)).toBe(told(other, plain));
  }
  for (const query of ['', `?document=${hidden.id}`]) {
    const one = await reader.get(`/api/v1/desk/files/${ofChanged}/merge${query}`);
    const other = await reader.get(`/api/v1/desk/files/${ofPlain}/merge${query}`);
    expect(told(one, changed)).toBe(told(other, plain));
  }
});

test('an author who sees no drafts is told of a change being prepared, whatever they try, and nothing else', async () => {
  const own = await server.library({ sight: { draft: [] } });
  const { id } = await server.document(own, 'first', { level: 'major', account: 'controller' });
  await server.change(id, 'hush', 'minor', 'controller');
  for (const [name, route] of writing) {
    for (const body of bodies[name] ?? []) {
      for (const address of addresses(route, id)) {
        const { status, text } = await send('author', route, address, body);
        const quiet = text.replace('"version":"1.1"', '').replace('no version 1.1', '');
        expect([name, status >= 400 || name === 'takeLooseCopy', quiet.match(/1\.1|hush/)]).toEqual([
          name,
          true,
          null,
        ]);
      }
    }
  }
});

describe('in a library with approval', () => {
  /**
   * Registered; the same with a version in approval, with a rejected one, and with one approved and not
   * published.
   */
  const documents: Record<string, Document> = {};
  const labels = new Map<string, string[]>();
  beforeAll(async () => {
    const approving = await server.library({
      approval: { on: true, mode: 'serial', approvers: ['approver'], publishing: 'byOwner' },
    });
    const [author, approver] = [await server.as('author'), await server.as('approver')];
    const decide = (id: string, version: string, decision: string) =>
      approver
        .post(`/api/v1/documents/${id}/decision`)
        .send({ version, decision, comment: 'Said' })
        .expect(200);
    const submitAs = async (id: string, version: string) =>
      author.post(`/api/v1/documents/${id}/submit`).send({ version }).expect(200);
    for (const state of ['plain', 'inApproval', 'rejected', 'approved']) {
      const made = await server.document(approving, 'first\nsecond\nthird', { title: 'Title' });
      documents[state] = made;
      await submitAs(made.id, '0.1');
      await decide(made.id, '0.1', 'approve');
      await author.post(`/api/v1/documents/${made.id}/publish`).send({ version: '0.1' }).expect(201);
      if (state !== 'plain') {
        await server.change(made.id, 'first\nhush\nthird');
        await submitAs(made.id, '1.1');
      }
      if (state === 'rejected') await decide(made.id, '1.1', 'reject');
      if (state === 'approved') await decide(made.id, '1.1', 'approve');
      labels.set(made.id, await server.labels(made.id));
    }
  });

  test.each(asked)(
    'to $account every act on a document with a version $state is answered as on one without',
    async ({ account, state }) => {
      await server.as(account);
      const [hiding, without] = [documents[state] as Document, documents['plain'] as Document];
      for (const [name, route] of writing) {
        for (const body of bodies[name] ?? []) {
          const here = addresses(route, without.id);
          for (const [index, address] of addresses(route, hiding.id).entries()) {
            const [one, other] = await Promise.all([
              send(account, route, address, body),
              send(account, route, here[index] as string, body),
            ]);
            expect(`${name} ${told(one, hiding)}`).toBe(`${name} ${told(other, without)}`);
          }
        }
      }
      expect(await server.labels(hiding.id)).toEqual(labels.get(hiding.id));
    },
  );
});
