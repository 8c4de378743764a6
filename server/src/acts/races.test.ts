import { createHash } from 'node:crypto';
import type * as contract from '@polychron/contract';
import { chainText, type LedgerEntry } from '@polychron/core';
import { transact } from '../store/database.ts';
import { appendLedger } from '../store/ledger.ts';
import { parseJson } from '../store/models.ts';
import { testServer } from '../testing/started.ts';

/** How often many clients race for one thing. */
const rounds = Number(process.env['POLYCHRON_RACE_ROUNDS'] ?? 2);

const server = testServer();
let library: string;
beforeAll(async () => {
  library = await server.library();
});

test('of fifty clients who check out at once exactly one holds the document, over and over; the others are told who', async () => {
  const { id } = await server.document(library, 'a', { level: 'major' });
  const accounts = Array.from({ length: 50 }, (_, index) => `client${index}`);
  const known = (await (await server.as('controller')).get(`/api/v1/libraries/${library}/members`)).body as {
    account: string;
    roles: string[];
  }[];
  for (const account of accounts) await server.caller(account);
  await (
    await server.as('controller')
  )
    .put(`/api/v1/libraries/${library}/members`)
    .send([
      ...known.map(({ account, roles }) => ({ account, roles })),
      ...accounts.map((account) => ({ account, roles: ['author'] })),
    ])
    .expect(200);
  const agents = await Promise.all(accounts.map((account) => server.as(account)));
  for (let round = 0; round < rounds; round += 1) {
    const answers = await Promise.all(
      agents.map((agent) => agent.post(`/api/v1/documents/${id}/checkout`).send({})),
    );
    expect(answers.filter(({ status }) => status === 201)).toHaveLength(1);
    const { holder } = answers.find(({ status }) => status === 201)?.body as contract.Custody;
    for (const { status, body } of answers)
      if (status !== 201) expect(body).toMatchObject({ status: 409, code: 'held', holder: holder.name });
    await (await server.as(holder.account)).delete(`/api/v1/documents/${id}/checkout`).expect(204);
  }
});

test('forty acts at once with an entity tag each are all answered', async () => {
  const { id } = await server.document(library, 'a', { level: 'major' });
  const author = await server.as('author');
  const tag = String((await author.get(`/api/v1/documents/${id}`)).headers['etag']);
  const answers = await Promise.all(
    Array.from({ length: 40 }, () =>
      author.post(`/api/v1/documents/${id}/checkout`).set('If-Match', tag).send({}),
    ),
  );
  expect(answers.filter(({ status }) => status === 201)).toHaveLength(1);
  expect(answers.filter(({ status }) => status === 412)).toHaveLength(39);
});

test('of twenty check-ins over one check-out one makes a version, over and over', async () => {
  const { id } = await server.document(library, 'a');
  const author = await server.as('author');
  for (let round = 0; round < rounds; round += 1) {
    await author.post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
    const answers = await Promise.all(
      Array.from({ length: 20 }, (_, index) =>
        author
          .post(`/api/v1/documents/${id}/checkin`)
          .field({ comment: 'x', level: 'minor', confirm: 'other-type,other-name' })
          .attach('file', Buffer.from(`${round} ${index}`), 'op.txt'),
      ),
    );
    expect(answers.filter(({ status }) => status === 201)).toHaveLength(1);
    for (const { status, body } of answers)
      if (status !== 201) expect(body).toMatchObject({ status: 409, code: 'not-checked-out' });
  }
  expect((await author.get(`/api/v1/documents/${id}`)).body).toMatchObject({
    latest: { label: `0.${rounds + 1}` },
    custody: null,
  });
});

test('of two publications at once one publishes', async () => {
  const { id } = await server.document(library, 'a');
  const author = await server.as('author');
  const answers = await Promise.all(
    [0, 1].map(() => author.post(`/api/v1/documents/${id}/publish`).send({})),
  );
  expect(answers.map(({ status }) => status).sort()).toEqual([201, 409]);
  expect(await server.labels(id)).toEqual(['1.0', '0.1']);
});

test('many new documents at once get numbers of their own', async () => {
  const own = await server.library();
  const made = await Promise.all(
    Array.from({ length: 8 }, (_, index) => server.document(own, `text ${index}`)),
  );
  expect(new Set(made.map(({ number }) => number)).size).toBe(8);
});

test('every act is in the Ledger, each entry chained to the one before', async () => {
  const { id } = await server.document(library, 'a');
  await server.change(id, 'b');
  await (
    await server.as('controller')
  )
    .post(`/api/v1/documents/${id}/publish`)
    .send({ comment: 'First issue' })
    .expect(201);
  const entries = await server.context.models.Ledger.findAll({ where: { chain: id }, order: ['sequence'] });
  expect(entries.map(({ act }) => act)).toEqual(['create', 'checkOut', 'checkIn', 'publish']);
  let previous = '';
  for (const row of entries) {
    const { documentId, libraryId, sequence, at, personId, act } = row;
    const entry: LedgerEntry = {
      documentId,
      libraryId,
      sequence,
      at,
      personId,
      act,
      facts: parseJson(row.facts),
    };
    expect(row.hash).toBe(createHash('sha256').update(chainText(previous, entry)).digest('hex'));
    previous = row.hash;
  }
});

test('entries that come at once into one chain of the Ledger each get their place', async () => {
  const accounts = ['one', 'two', 'three', 'four', 'five', 'six', 'seven', 'eight'];
  const callers = await Promise.all(accounts.map((account) => server.caller(account)));
  const entry = (personId: string) =>
    transact(server.context.db, (tx) =>
      appendLedger(
        server.context,
        { at: server.now, personId, libraryId: null, documentId: null, act: 'signIn', facts: {} },
        tx,
      ),
    );
  const before = await server.context.models.Ledger.count({ where: { chain: 'site' } });
  await Promise.all(callers.flatMap(({ id }) => [entry(id), entry(id), entry(id)]));
  const chain = await server.context.models.Ledger.findAll({ where: { chain: 'site' }, order: ['sequence'] });
  expect(chain.map(({ sequence }) => sequence)).toEqual(
    Array.from({ length: before + 24 }, (_, index) => index + 1),
  );
});

test('two groups emptied at once leave no library without a controller, over and over', async () => {
  const admin = await server.as('admin');
  await server.caller('leader');
  const people = ['leader'];
  for (let round = 0; round < 4 * rounds; round += 1) {
    const own = await server.library();
    const names = [`left ${round}`, `right ${round}`];
    const groups: contract.Group[] = [];
    for (const name of names)
      groups.push((await admin.post('/api/v1/groups').send({ name, people })).body as contract.Group);
    const members = names.map((group) => ({ group, roles: ['controller'] }));
    await admin.put(`/api/v1/libraries/${own}/members`).send(members).expect(200);
    const answers = await Promise.all([
      admin.put(`/api/v1/groups/${groups[0]?.id}`).send({ name: names[0], people: [] }),
      round % 2
        ? admin.delete(`/api/v1/groups/${groups[1]?.id}`)
        : admin.put(`/api/v1/groups/${groups[1]?.id}`).send({ name: names[1], people: [] }),
    ]);
    expect(answers.filter(({ ok }) => ok)).toHaveLength(1);
    expect(answers.find(({ ok }) => !ok)?.body).toMatchObject({ code: 'last-controller' });
  }
});

test('a group emptied while a library takes it for its only controller: one of the two is refused', async () => {
  const admin = await server.as('admin');
  for (let round = 0; round < 20; round += 1) {
    const own = await server.library();
    const name = `only ${round}`;
    const group = (await admin.post('/api/v1/groups').send({ name, people: ['leader'] }))
      .body as contract.Group;
    const answers = await Promise.all([
      admin.put(`/api/v1/libraries/${own}/members`).send([{ group: name, roles: ['controller'] }]),
      admin.put(`/api/v1/groups/${group.id}`).send({ name, people: [] }),
    ]);
    expect(answers.filter(({ ok }) => ok)).toHaveLength(1);
  }
});

test('a group name at once is taken once, and a group removed while it is given a role is missing or gone', async () => {
  const admin = await server.as('admin');
  const own = await server.library();
  const members = (await admin.get(`/api/v1/libraries/${own}/members`)).body as {
    account: string;
    roles: string[];
  }[];
  const plain = members.map(({ account, roles }) => ({ account, roles }));
  for (let round = 0; round < 20; round += 1) {
    const name = `once ${round}`;
    const made = await Promise.all([0, 1, 2].map(() => admin.post('/api/v1/groups').send({ name })));
    expect(made.map(({ status }) => status).sort()).toEqual([201, 409, 409]);
    const { id } = made.find(({ status }) => status === 201)?.body as contract.Group;
    const [given, removed] = await Promise.all([
      admin.put(`/api/v1/libraries/${own}/members`).send([...plain, { group: name, roles: ['reader'] }]),
      admin.delete(`/api/v1/groups/${id}`),
    ]);
    expect(removed.status).toBe(204);
    if (!given.ok) expect(given.body).toMatchObject({ status: 422, code: 'group-unknown' });
  }
});
