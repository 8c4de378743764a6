import * as contract from '@polychron/contract';
import { binary, docxOf } from '../testing/files.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();
let library: string;
beforeAll(async () => {
  library = await server.library();
});

const publish = async (id: string, account = 'controller'): Promise<contract.Version> =>
  (await (await server.as(account)).post(`/api/v1/documents/${id}/publish`).send({ comment: '' }).expect(201))
    .body as contract.Version;
const restore = async (id: string, from: string, level: string): Promise<contract.Version> =>
  (
    await (
      await server.as('author')
    )
      .post(`/api/v1/documents/${id}/restore`)
      .send({ from, level, comment: '' })
      .expect(201)
  ).body as contract.Version;
const read = async (id: string, account = 'author'): Promise<contract.Document> =>
  (await (await server.as(account)).get(`/api/v1/documents/${id}`).expect(200)).body as contract.Document;

describe('worked examples of docs/rules.md through the API', () => {
  test('2: restore 3.0 at 5.0 as draft 5.1, publish as 6.0, 5.0 untouched', async () => {
    const { id } = await server.document(library);
    for (const major of [1, 2, 3, 4, 5]) await server.change(id, `text ${major}`, 'major');
    const before = (await (await server.as('author')).get(`/api/v1/documents/${id}/versions/5.0`))
      .body as contract.Version;
    const third = (await (await server.as('author')).get(`/api/v1/documents/${id}/versions/3.0`))
      .body as contract.Version;
    expect(await restore(id, '3.0', 'minor')).toMatchObject({
      label: '5.1',
      state: 'draft',
      sha256: third.sha256,
      origin: { kind: 'restore', from: '3.0' },
    });
    expect((await read(id, 'reader')).inForce?.label).toBe('5.0');
    expect(await publish(id)).toMatchObject({
      label: '6.0',
      sha256: third.sha256,
      standing: 'inForce',
      origin: { kind: 'publish', from: '5.1' },
    });
    const after = (await (await server.as('author')).get(`/api/v1/documents/${id}/versions/5.0`))
      .body as contract.Version;
    expect(after).toEqual({
      ...before,
      standing: 'superseded',
      supersededAt: expect.any(String),
      why: expect.any(String),
      acts: expect.any(Object),
    });
    expect((await restore(id, '5.0', 'minor')).sha256).toBe(before.sha256);
  });

  test('4: 2.0, 2.1, 2.2, 3.0, restoring 2.0 as major gives 4.0', async () => {
    const { id } = await server.document(library, 'a');
    for (const [words, level] of [
      ['b', 'major'],
      ['c', 'major'],
      ['d', 'minor'],
      ['e', 'minor'],
      ['f', 'major'],
    ] as const)
      await server.change(id, words, level);
    expect((await restore(id, '2.0', 'major')).label).toBe('4.0');
    expect(await server.labels(id)).toEqual(['4.0', '3.0', '2.2', '2.1', '2.0', '1.0', '0.1']);
  });

  test('6, without approval, and 13, stepped: readers see what is in force and nothing of the drafts', async () => {
    const { id } = await server.document(library, 'a');
    await (await server.as('reader')).get(`/api/v1/documents/${id}`).expect(404);
    await server.change(id, 'b');
    expect((await publish(id)).label).toBe('1.0');
    await server.change(id, 'c');
    await server.change(id, 'd');
    expect(await server.labels(id, 'reader')).toEqual(['1.0']);
    expect((await publish(id)).label).toBe('2.0');
    await server.change(id, 'e');
    expect(await server.labels(id, 'reader')).toEqual(['2.0']);
    expect(await server.labels(id, 'auditor')).toEqual(['2.0', '1.0']);
    expect(await server.labels(id)).toEqual(['2.1', '2.0', '1.2', '1.1', '1.0', '0.2', '0.1']);
    const versions = (await (await server.as('author')).get(`/api/v1/documents/${id}/versions`))
      .body as contract.VersionList;
    expect(versions.items.find(({ label }) => label === '1.0')?.standing).toBe('superseded');
  });
});

test('the main job from creation to restore, every answer as the contract says', async () => {
  const author = await server.as('author');
  const made = await server.document(library, 'The line is opened.', { title: 'Closing the line' });
  expect(contract.Document.parse(made)).toMatchObject({
    title: 'Closing the line',
    latest: { label: '0.1' },
    toCome: { minor: '0.2', major: '1.0' },
    acts: { checkOut: { allowed: true } },
  });
  const base = `/api/v1/documents/${made.id}`;

  const custody = contract.Custody.parse(
    (await author.post(`${base}/checkout`).send({ reason: 'Wording' }).expect(201)).body,
  );
  expect(custody).toMatchObject({
    mine: true,
    base: '0.1',
    saves: 0,
    reason: 'Wording',
    until: new Date(server.now.getTime() + 5 * 86_400_000).toISOString(),
  });
  const taken = await author.get(`${base}/checkout/content`).buffer().parse(binary).expect(200);
  expect(taken.body).toEqual(docxOf('The line is opened.'));
  expect(taken.headers['content-disposition']).toContain('op.docx');

  const refused = await (await server.as('controller')).post(`${base}/checkout`).send({}).expect(409);
  expect(refused.headers['content-type']).toMatch(/application\/problem\+json/);
  expect(contract.Problem.parse(refused.body)).toMatchObject({
    code: 'held',
    holder: 'A. author',
    status: 409,
  });
  expect(
    contract.Custody.parse((await (await server.as('controller')).get(`${base}/checkout`).expect(200)).body),
  ).toMatchObject({ mine: false, holder: { account: 'author' }, workingCopy: null });
  await (await server.as('controller')).get(`${base}/checkout/content`).expect(403);

  const saved = await author
    .put(`${base}/checkout/content`)
    .attach('file', docxOf('The line is opened slowly.'), 'op.docx')
    .expect(200);
  expect(saved.body).toMatchObject({ saves: 1, workingCopy: { fileName: 'op.docx' } });
  await author
    .put(`${base}/checkout/content`)
    .set('Content-Type', 'application/octet-stream')
    .send(docxOf('The line is opened very slowly.'))
    .expect(200);
  expect((await author.get(`${base}/checkout/saves`).expect(200)).body).toMatchObject({
    total: 2,
    items: [{ position: 1 }, { position: 2 }],
  });
  expect(await server.labels(made.id)).toEqual(['0.1']);

  const version = contract.Version.parse(
    (
      await author
        .post(`${base}/checkin`)
        .field('comment', 'Slower')
        .field('level', 'minor')
        .field('keepCheckedOut', 'true')
        .expect(201)
    ).body,
  );
  expect(version).toMatchObject({
    label: '0.2',
    state: 'draft',
    comment: 'Slower',
    origin: { kind: 'checkIn', from: '0.1' },
    words: 6,
  });
  expect((await read(made.id)).custody).toMatchObject({ base: '0.2', saves: 0 });
  await author.put(`${base}/checkout/content`).attach('file', docxOf('Thrown away.'), 'op.docx').expect(200);
  await author.delete(`${base}/checkout`).expect(204);
  expect((await read(made.id)).custody).toBeNull();
  expect(await server.labels(made.id)).toEqual(['0.2', '0.1']);

  expect(await publish(made.id, 'author')).toMatchObject({ label: '1.0', comment: 'Slower' });
  const comparison = contract.Comparison.parse(
    (await author.get(`${base}/compare`).query({ from: '0.1', to: '1.0' }).expect(200)).body,
  );
  expect(comparison.changes).toMatchObject([{ kind: 'changed', after: 'very slowly', before: '' }]);
  expect(
    contract.Reading.parse((await author.get(`${base}/versions/1.0/reading`).expect(200)).body).blocks,
  ).toMatchObject([{ kind: 'paragraph', runs: [{ text: 'The line is opened very slowly.' }] }]);
  const back = await restore(made.id, '0.1', 'minor');
  expect(back).toMatchObject({ label: '1.1', origin: { kind: 'restore', from: '0.1' } });
  const bytes = await author.get(`${base}/versions/1.1/content`).buffer().parse(binary).expect(200);
  expect(bytes.body).toEqual(docxOf('The line is opened.'));
  expect(bytes.headers['repr-digest']).toBe(
    `sha-256=:${Buffer.from(back.sha256, 'hex').toString('base64')}:`,
  );
});

test('a version links to its neighbours as RFC 8288 and RFC 5829 say, as far as the caller sees them', async () => {
  const { id } = await server.document(library, 'a', { level: 'major' });
  await server.change(id, 'b');
  await server.change(id, 'c', 'major');
  const link = async (account: string, label: string): Promise<string> =>
    String(
      (await (await server.as(account)).get(`/api/v1/documents/${id}/versions/${label}`).expect(200)).headers[
        'link'
      ],
    );
  const to = (label: string, rel: string): string =>
    `</api/v1/documents/${id}/versions/${label}>; rel="${rel}"`;
  const middle = await link('author', '1.1');
  for (const part of [
    to('1.0', 'predecessor-version'),
    to('2.0', 'successor-version'),
    to('2.0', 'latest-version'),
    `</api/v1/documents/${id}/versions>; rel="version-history"`,
  ])
    expect(middle).toContain(part);
  expect(await link('reader', '2.0')).not.toMatch(/1\.[01]|predecessor/);
  // From the document back to its first version, by links alone (docs/api.md).
  const walk = async (account: string): Promise<string[]> => {
    const agent = await server.as(account);
    const labels: string[] = [];
    let [path, relation] = [`/api/v1/documents/${id}`, 'latest-version'];
    for (;;) {
      const { body, headers } = await agent.get(path).expect(200);
      if (relation === 'predecessor-version') labels.push((body as { label: string }).label);
      const next = new RegExp(`<([^<>]*)>; rel="${relation}"`).exec(String(headers['link']))?.[1];
      if (next === undefined) return labels;
      [path, relation] = [next, 'predecessor-version'];
    }
  };
  expect(await walk('author')).toEqual(['2.0', '1.1', '1.0']);
  expect(await walk('reader')).toEqual(['2.0']);
});

test('fields change by a version of their own; a stale If-Match is refused and changes nothing', async () => {
  const { id } = await server.document(library, 'a', { level: 'major' });
  const author = await server.as('author');
  const tag = String((await author.get(`/api/v1/documents/${id}`)).headers['etag']);
  expect(tag).toMatch(/^"1\.0-/);
  const patch = (ifMatch: string, title: string) =>
    author
      .patch(`/api/v1/documents/${id}`)
      .set('If-Match', ifMatch)
      .send({ fields: { title }, comment: 'Clearer' });
  expect((await patch(tag, 'A clearer title').expect(200)).body).toMatchObject({
    label: '1.1',
    origin: { kind: 'fields', from: '1.0' },
    fields: { title: 'A clearer title' },
  });
  const stale = await patch(tag, 'Another title').expect(412);
  expect(stale.body).toMatchObject({ code: 'stale', given: tag, latest: '1.1' });
  expect(await server.labels(id)).toEqual(['1.1', '1.0']);
  await author.post(`/api/v1/documents/${id}/checkout`).set('If-Match', tag).send({}).expect(412);
  await author.post(`/api/v1/documents/${id}/publish`).set('If-Match', tag).send({}).expect(412);
  expect((await read(id, 'reader')).title).toBe('Opening the line');
});

test('questions of a check-in are asked with their codes and answered by confirming them', async () => {
  const { id } = await server.document(library, 'a');
  const author = await server.as('author');
  await author.post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
  const checkIn = (words: string, name: string, more: Record<string, string> = {}) => {
    const sent = author.post(`/api/v1/documents/${id}/checkin`).field('comment', 'x').field('level', 'minor');
    for (const [field, value] of Object.entries(more)) void sent.field(field, value);
    return sent.attach('file', docxOf(words), name);
  };
  expect((await checkIn('a', 'op.docx').expect(409)).body).toMatchObject({ code: 'same-bytes' });
  expect((await checkIn('b', 'op (1).docx').expect(409)).body).toMatchObject({
    code: 'other-name',
    registered: 'op.docx',
    given: 'op (1).docx',
  });
  expect((await checkIn('b', 'notes.txt').expect(409)).body).toMatchObject({ code: 'other-type' });
  expect(await server.labels(id)).toEqual(['0.1']);
  expect((await checkIn('b', 'op (1).docx', { keepFileName: 'true' }).expect(201)).body).toMatchObject({
    label: '0.2',
    fileName: 'op.docx',
  });
});

test('the Register pages, sorts, searches and filters', async () => {
  const own = await server.library();
  for (const title of ['Gamma 100% sure', 'Alpha wind', 'Beta line', 'Delta_x rope']) {
    await server.document(own, title, { title });
    server.pass(1);
  }
  const author = await server.as('author');
  const list = async (query: Record<string, string | number>): Promise<contract.DocumentList> =>
    contract.DocumentList.parse(
      (await author.get(`/api/v1/libraries/${own}/documents`).query(query).expect(200)).body,
    );
  const titles = ({ items }: contract.DocumentList): string[] => items.map(({ title }) => title);
  for (const sort of ['number', 'title', 'changed']) {
    const seen: string[] = [];
    for (let cursor: string | null = ''; cursor !== null;) {
      const page: contract.DocumentList = await list({ sort, limit: 3, ...(cursor ? { cursor } : {}) });
      expect(page.total).toBe(4);
      seen.push(...titles(page));
      cursor = page.next;
    }
    const expected = {
      number: ['Gamma 100% sure', 'Alpha wind', 'Beta line', 'Delta_x rope'],
      title: ['Alpha wind', 'Beta line', 'Delta_x rope', 'Gamma 100% sure'],
      changed: ['Delta_x rope', 'Beta line', 'Alpha wind', 'Gamma 100% sure'],
    }[sort];
    expect(seen).toEqual(expected);
  }
  expect(titles(await list({ q: 'wind' }))).toEqual(['Alpha wind']);
  expect(titles(await list({ q: '100%' }))).toEqual(['Gamma 100% sure']);
  expect(titles(await list({ q: 'delta_' }))).toEqual(['Delta_x rope']);
  expect(titles(await list({ q: '_' }))).toEqual([]);
  expect(titles(await list({ q: "'; DROP TABLE versions; --" }))).toEqual([]);
  const [first] = (await list({})).items;
  await author.post(`/api/v1/documents/${first?.id}/checkout`).send({}).expect(201);
  expect(titles(await list({ heldBy: 'me' }))).toEqual([first?.title]);
  expect(titles(await list({ heldBy: 'anyone' }))).toEqual([first?.title]);
  expect((await list({ heldBy: 'nobody' })).total).toBe(3);
  expect((await list({ overdue: 'true' })).total).toBe(0);
  server.pass(24 * 6);
  expect(titles(await list({ overdue: 'true' }))).toEqual([first?.title]);
  expect((await list({ state: 'published' })).total).toBe(0);
  await author.get(`/api/v1/libraries/${own}/documents`).query({ cursor: 'nonsense' }).expect(400);
  await author
    .get(`/api/v1/libraries/${own}/documents`)
    .query({ before: '2026-01-01T00:00:00Z' })
    .expect(422);
});

test('numbers are proposed by the library; one that is taken is refused', async () => {
  const own = await server.library();
  const first = await server.document(own);
  const second = await server.document(own);
  expect(first.number).toMatch(/-001$/);
  expect(second.number).toMatch(/-002$/);
  const answer = await (
    await server.as('author')
  )
    .post(`/api/v1/libraries/${own}/documents`)
    .field('fields', JSON.stringify({ title: 'Twice', number: first.number }))
    .attach('file', docxOf('x'), 'x.docx')
    .expect(409);
  expect(answer.body).toMatchObject({ code: 'number-taken' });
});
