import type * as contract from '@polychron/contract';
import {
  completeRulebook,
  explain,
  type Role,
  roles,
  sightFacts,
  type SightRole,
  type Standing,
  type State,
} from '@polychron/core';
import { accessDocument } from '../access/admission.ts';
import { loadDocuments } from '../store/documents.ts';
import { rebuildHeads } from '../store/rebuildHeads.ts';
import { newestVisible, pageOfVisible, toVersion } from '../store/versions.ts';
import { binary, docxOf } from '../testing/files.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();

/** Words that only drafts hold; wherever a reader finds one, something leaks. */
const secret = /hushdraft|1\.1|1\.2|2\.1/;

describe('a reader, by every door, sees what is in force and nothing of the drafts', () => {
  let library: string;
  let id: string;
  let hidden: string;
  beforeAll(async () => {
    library = await server.library();
    id = (await server.document(library, 'public one', { level: 'major', title: 'Public title' })).id;
    await server.change(id, 'hushdraft a');
    await server.change(id, 'public two', 'major');
    const author = await server.as('author');
    await author
      .patch(`/api/v1/documents/${id}`)
      .send({ fields: { title: 'hushdraft title' }, comment: 'hushdraft comment' })
      .expect(200);
    await author.post(`/api/v1/documents/${id}/checkout`).send({ reason: 'hushdraft reason' }).expect(201);
    hidden = (await server.document(library, 'hushdraft only', { title: 'hushdraft document' })).id;
  });
  const get = async (path: string, account = 'reader') => (await server.as(account)).get(`/api/v1${path}`);

  test.each(['', '/versions', '/versions/2.0', '/versions/2.0/reading', '/checkout'])(
    'GET document%s',
    async (path) => {
      const answer = await get(`/documents/${id}${path}`);
      expect(answer.status).toBe(200);
      expect(answer.text).not.toMatch(secret);
      expect(JSON.stringify(answer.headers)).not.toMatch(secret);
    },
  );
  test('the list and its count, and the count of the library', async () => {
    const list = (await get(`/libraries/${library}/documents`)).body as contract.DocumentList;
    expect([list.total, list.items.length, list.items[0]?.versions, list.items[0]?.strand.length]).toEqual([
      1, 1, 1, 1,
    ]);
    expect(JSON.stringify(list)).not.toMatch(secret);
    expect((await get(`/libraries/${library}`)).body).toMatchObject({ documents: 1 });
  });
  test('search finds no draft by title or comment', async () => {
    for (const q of ['hushdraft', 'Now hushdraft a'])
      expect((await get(`/libraries/${library}/documents?q=${q}`)).body).toMatchObject({ total: 0 });
    expect((await get(`/libraries/${library}/documents?q=hushdraft`, 'author')).body).toMatchObject({
      total: 2,
    });
  });
  test('filters by state and subject speak of what one sees', async () => {
    expect((await get(`/libraries/${library}/documents?state=draft`)).body).toMatchObject({ total: 0 });
    expect((await get(`/libraries/${library}/documents?overdue=true`)).body).toMatchObject({ total: 0 });
  });
  test('versions, content, reading and compare of a draft are as if there were none', async () => {
    const none = (await get(`/documents/${id}/versions/99.9`)).body as { detail: string };
    for (const label of ['1.0', '1.1', '2.1', '1~2.1']) {
      for (const path of ['', '/content', '/reading', '/pictures/word%2Fmedia%2Fimage1.png']) {
        const answer = await get(`/documents/${id}/versions/${label}${path}`);
        expect(answer.status).toBe(404);
        expect((answer.body as { detail: string }).detail.replace(label, '99.9')).toBe(none.detail);
      }
      expect((await get(`/documents/${id}/compare?from=${label}&to=2.0`)).status).toBe(404);
      expect((await get(`/documents/${id}/compare?from=2.0&to=${label}`)).status).toBe(404);
    }
  });
  test('a draft is not reached by its id either', async () => {
    const versions = (await get(`/documents/${id}/versions`, 'author')).body as contract.VersionList;
    for (const version of versions.items.filter(({ label }) => label !== '2.0')) {
      expect((await get(`/documents/${id}/versions/${version.id}`)).status).toBe(404);
      expect((await get(`/documents/${id}/versions?cursor=${version.id}`)).status).toBe(404);
    }
  });
  test('who holds the document is known, the rest of custody is not', async () => {
    expect((await get(`/documents/${id}/checkout`)).body).toMatchObject({
      holder: { account: 'author' },
      base: null,
      until: null,
      reason: null,
      saves: 0,
    });
    expect((await get(`/documents/${id}`)).body).toMatchObject({ toCome: null, seenBy: null });
  });
  test('a document of drafts only does not exist, for any act', async () => {
    const reader = await server.as('reader');
    for (const path of ['', '/versions', '/checkout', '/content'])
      expect((await get(`/documents/${hidden}${path}`)).status).toBe(404);
    for (const [path, body] of [
      ['checkout', {}],
      ['publish', {}],
      ['restore', { from: '0.1', level: 'minor' }],
    ] as const) {
      expect((await reader.post(`/api/v1/documents/${hidden}/${path}`).send(body)).status).toBe(404);
    }
  });
  test('the content in force comes with the bytes of 2.0', async () => {
    const answer = await (
      await server.as('reader')
    )
      .get(`/api/v1/documents/${id}/content`)
      .buffer()
      .parse(binary)
      .expect(200);
    const same = await (
      await server.as('author')
    )
      .get(`/api/v1/documents/${id}/versions/2.0/content`)
      .buffer()
      .parse(binary);
    expect(answer.body).toEqual(same.body);
  });
  test('the entity tag does not move with the drafts', async () => {
    const before = (await get(`/documents/${id}`)).headers['etag'];
    await (await server.as('author')).delete(`/api/v1/documents/${id}/checkout`).expect(204);
    const free = (await get(`/documents/${id}`)).headers['etag'];
    await server.change(id, 'hushdraft again');
    expect((await get(`/documents/${id}`)).headers['etag']).toBe(free);
    expect(before).not.toBe(free);
  });
  test('and changes nothing', async () => {
    const reader = await server.as('reader');
    const acts: [string, object][] = [
      ['checkout', {}],
      ['publish', {}],
      ['restore', { from: '2.0', level: 'minor' }],
    ];
    for (const account of ['reader', 'auditor', 'approver']) {
      for (const [path, body] of acts)
        expect(
          (await (await server.as(account)).post(`/api/v1/documents/${id}/${path}`).send(body)).body,
        ).toMatchObject({ status: 403, code: 'role-missing' });
    }
    expect((await reader.patch(`/api/v1/documents/${id}`).send({ fields: { title: 'x' } })).status).toBe(403);
    expect(
      (
        await reader
          .post(`/api/v1/libraries/${library}/documents`)
          .field('fields', '{"title":"x"}')
          .attach('file', Buffer.from('x'), 'x.txt')
      ).status,
    ).toBe(403);
  });
});

test('whoever is no member finds neither library nor document; a system administrator sees no content', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'a', { level: 'major' });
  for (const account of ['stranger', 'admin']) {
    const agent = await server.as(account);
    expect((await agent.get(`/api/v1/documents/${id}`)).body).toMatchObject({
      status: 404,
      code: 'document-not-found',
    });
    expect((await agent.get(`/api/v1/documents/${id}/content`)).status).toBe(404);
    expect((await agent.get(`/api/v1/libraries/${library}/documents`)).status).toBe(404);
  }
  await (await server.as('stranger')).get(`/api/v1/libraries/${library}`).expect(404);
});

test('sight narrower than authors: an author is told only whom to ask', async () => {
  const library = await server.library({ sight: { draft: [] } });
  const { id } = await server.document(library, 'a', { level: 'major', account: 'controller' });
  await server.change(id, 'b', 'minor', 'controller');
  const answer = await (
    await server.as('author')
  )
    .post(`/api/v1/documents/${id}/checkout`)
    .send({})
    .expect(403);
  expect(answer.body).toMatchObject({ code: 'change-being-prepared', ask: 'C. controller' });
  expect(JSON.stringify(answer.body)).not.toContain('1.1');
});

/**
 * Every role × sets of roles × kind of version: what the database lists is what `explain` allows. The
 * versions are written into the table as later stages will make them.
 */
const sets: SightRole[][] = [['reader', 'approver'], ['author', 'approver'], ['auditor'], []];
describe.each(sets.map((named) => ({ named })))(
  'lists agree with explain where sight is $named',
  ({ named }) => {
    const kinds: [State, Standing | null][] = [
      ['draft', null],
      ['inApproval', null],
      ['approved', null],
      ['rejected', null],
      ['withdrawn', null],
      ['published', 'scheduled'],
      ['published', 'superseded'],
      ['published', 'inForce'],
    ];
    test.each([false, true])('readersSeePast %s', async (readersSeePast) => {
      const rules = { sight: { draft: named, inApproval: named, rejected: named }, readersSeePast };
      const library = await server.library(rules);
      const { id, latest } = await server.document(library, 'a', { account: 'author2' });
      const { models } = server.context;
      const first = await models.Version.findByPk(latest.id);
      if (!first) throw new Error('no version');
      const other = (await server.caller('author')).id;
      let sequence = 1;
      for (const thinned of [false, true])
        for (const authorId of [first.authorId, other])
          for (const [state, standing] of kinds) {
            sequence += 1;
            await models.Version.create({
              ...first.get({ plain: true }),
              id: `${id.slice(0, 30)}${String(sequence).padStart(6, '0')}`,
              sequence,
              minor: sequence,
              state,
              standing,
              authorId,
              thinnedAt: thinned ? server.now : null,
              fields: first.fields,
            });
          }
      await rebuildHeads(server.context.db);
      const all = (await models.Version.findAll({ where: { documentId: id }, order: ['sequence'] })).map(
        toVersion,
      );
      const document = (await loadDocuments(server.context, [id])).get(id);
      if (!document) throw new Error('no document');
      for (const account of ['reader', 'auditor', 'author', 'author2', 'approver', 'controller'])
        for (const extra of [null, ...roles]) {
          const caller = await server.caller(account);
          const held = new Set<Role>([account.replace(/\d/, '') as Role, ...(extra ? [extra] : [])]);
          const listed = (
            await newestVisible(
              server.context,
              { actor: { ...caller, roles: held }, rules: document.rules },
              { documentIds: [id], count: 1000 },
            )
          ).get(id);
          const allowed = all.filter(
            (version) =>
              explain({ id: caller.id, roles: held }, sightFacts(document, version), completeRulebook(rules))
                .sees,
          );
          expect(new Set(listed?.versions.map((version) => version.id))).toEqual(
            new Set(allowed.map((version) => version.id)),
          );
          expect(listed?.total ?? 0).toBe(allowed.length);
          // A page is counted in another way, and begins anywhere.
          const newest = allowed.map(({ id: ofVersion, sequence: at }) => ({ id: ofVersion, at })).reverse();
          for (const before of [null, 20]) {
            const page = await pageOfVisible(
              server.context,
              { actor: { ...caller, roles: held }, rules: document.rules },
              document,
              { before, count: 5 },
            );
            const below = newest.filter(({ at }) => before === null || at < before).slice(0, 5);
            expect(page.versions.map((version) => version.id)).toEqual(below.map((version) => version.id));
            expect(page.total).toBe(allowed.length);
          }
        }
      expect((await accessDocument(await server.asker('controller'), id)).actor.roles.has('controller')).toBe(
        true,
      );
    });
  },
);

test.each([40, 150])(
  'of %s drafts behind what is in force, and of those before it, as many are counted as one sees',
  async (drafts) => {
    const library = await server.library({ sight: { draft: ['author'] } });
    const { id, latest } = await server.document(library, 'a', { level: 'major' });
    const { db, models } = server.context;
    const first = await models.Version.findByPk(latest.id);
    if (!first) throw new Error('no version');
    // In force, then the drafts, so that nothing a reader sees is near the end of the longer history.
    await models.Version.bulkCreate(
      Array.from({ length: drafts }, (_, place) => ({
        ...first.get({ plain: true }),
        id: `${id.slice(0, 30)}${String(place).padStart(6, '0')}`,
        sequence: place + 2,
        minor: place + 1,
        state: 'draft' as const,
        standing: null,
        fields: first.fields,
      })),
    );
    await rebuildHeads(db);
    const listed = async (account: string): Promise<[number, string[], string]> => {
      const agent = await server.as(account);
      const [one] = (
        (await agent.get(`/api/v1/libraries/${library}/documents`)).body as contract.DocumentList
      ).items;
      return [one?.versions ?? 0, one?.strand.map(({ label }) => label) ?? [], one?.latest.comment ?? ''];
    };
    expect(await listed('reader')).toEqual([1, ['1.0'], 'First']);
    const newest = Array.from({ length: 30 }, (_, place) => `1.${drafts - 29 + place}`);
    expect(await listed('author')).toEqual([drafts + 1, newest, 'First']);
  },
);

test('the history of custody tells of a check-out that goes on no more than the check-out itself', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'first', { level: 'major' });
  const author = await server.as('author');
  await author.post(`/api/v1/documents/${id}/checkout`).send({ reason: 'hushdraft reason' }).expect(201);
  const history = async (account: string) =>
    (
      (await (await server.as(account)).get(`/api/v1/documents/${id}/custody`))
        .body as contract.CustodyHistory
    ).items[0];
  expect(await history('reader')).toMatchObject({ reason: 'hushdraft reason', base: '1.0' });
  const kept = { comment: 'c', level: 'minor', keepCheckedOut: 'true', confirm: 'same-bytes' };
  await author
    .post(`/api/v1/documents/${id}/checkin`)
    .field(kept)
    .attach('file', docxOf('b'), 'op.docx')
    .expect(201);
  expect(await history('reader')).toMatchObject({ reason: null, until: null, how: null });
  expect(await history('author2')).toMatchObject({ reason: 'hushdraft reason' });
  await author.delete(`/api/v1/documents/${id}/checkout`).expect(204);
});

test('the pace of a library counts no document of which one sees nothing', async () => {
  const library = await server.library({ sight: { draft: [], rejected: [], inApproval: [] } });
  await server.document(library, 'first', { level: 'major' });
  await server.document(library, 'draft', { account: 'author2' });
  const pace = async (account: string) =>
    ((await (await server.as(account)).get(`/api/v1/libraries/${library}/pace`)).body as contract.PaceView)
      .documents;
  expect([
    await pace('controller'),
    await pace('author2'),
    await pace('author'),
    await pace('auditor'),
  ]).toEqual([2, 2, 1, 1]);
});
