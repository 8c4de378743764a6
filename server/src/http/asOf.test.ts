import { strFromU8, unzipSync } from 'fflate';
import Papa from 'papaparse';
import type * as contract from '@polychron/contract';
import { bringDueIntoForce } from '../jobs/sweeps.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();

const get = async (account: string, path: string) => (await server.as(account)).get(`/api/v1${path}`);
const at = (moment: Date): string => `asOf=${moment.toISOString()}`;

/** A document of 1.0 and 2.0 with the draft 2.1, and the moments between. */
async function document(rules = {}) {
  const library = await server.library(rules);
  const { id, number } = await server.document(library, 'first words', { level: 'major' });
  const first = server.now;
  server.pass(1);
  await server.change(id, 'second words', 'major');
  const second = server.now;
  server.pass(1);
  await server.change(id, 'third hushed words');
  const draft = server.now;
  server.pass(1);
  return { library, id, number, first, second, draft };
}

test('a document, its versions and its Register as they were; nothing can be done there', async () => {
  const { library, id, number, first, second } = await document();
  const then = (await get('author', `/documents/${id}?${at(first)}`)).body as contract.Document;
  expect(then).toMatchObject({
    inForce: { label: '1.0', standing: 'inForce', supersededAt: null },
    versions: 1,
  });
  expect(then.strand.map(({ label }) => label)).toEqual(['1.0']);
  expect(Object.values(then.acts).some(({ allowed }) => allowed)).toBe(false);
  expect(then.acts.checkOut.why).toMatch(
    /^You are looking at \d+ \w{3} 2026 \d\d:\d\d UTC and can only look/,
  );
  const versions = (await get('author', `/documents/${id}/versions?${at(second)}`))
    .body as contract.VersionList;
  expect(versions.items.map(({ label, standing }) => `${label} ${standing}`)).toEqual([
    '2.0 inForce',
    '1.0 superseded',
  ]);
  const page = await get('author', `/documents/${id}/versions?limit=1&${at(second)}`);
  expect((page.body as contract.VersionList).items.map(({ label }) => label)).toEqual(['2.0']);
  const list = (await get('author', `/libraries/${library}/documents?${at(first)}`))
    .body as contract.DocumentList;
  expect(list).toMatchObject({ items: [{ number, inForce: { label: '1.0' } }], total: 1, next: null });
  const before = new Date(first.getTime() - 60_000);
  expect((await get('author', `/libraries/${library}/documents?${at(before)}`)).body).toMatchObject({
    total: 0,
  });
  expect((await get('author', `/documents/${id}?${at(before)}`)).status).toBe(404);
  // Links lead to what was there (RFC 5829).
  const one = await get('author', `/documents/${id}/versions/1.0?${at(second)}`);
  expect(one.headers['link']).toContain(`/documents/${id}/versions/2.0>; rel="successor-version"`);
  expect(one.headers['link']).not.toContain('2.1');
});

test('contents and comparisons are of versions that were there; one that was thinned since says so', async () => {
  const { id, second, draft } = await document();
  const content = await get('author', `/documents/${id}/content?${at(second)}`);
  expect(content.status).toBe(200);
  const now = await get('author', `/documents/${id}/versions/2.0/content`);
  expect(content.headers['etag']).toBe(now.headers['etag']);
  const compared = (of: string) => get('author', `/documents/${id}/compare?${of}`);
  expect((await compared(`from=1.0&to=2.0&${at(second)}`)).status).toBe(200);
  expect((await compared(`from=2.0&to=2.1&${at(second)}`)).body).toMatchObject({ code: 'version-not-found' });
  expect((await compared(`from=2.0&to=2.1&${at(draft)}`)).status).toBe(200);
  await (
    await server.as('controller')
  )
    .post(`/api/v1/documents/${id}/versions/1.0/thin`)
    .send({ reason: 'Superfluous' })
    .expect(200);
  const was = (await get('author', `/documents/${id}/versions/1.0?${at(draft)}`)).body as contract.Version;
  expect(was.thinned).toBeNull();
  const refused = await get('author', `/documents/${id}/versions/1.0/content?${at(draft)}`);
  expect(refused.body).toMatchObject({ code: 'content-thinned' });
});

test('what a version was made of is not named as of then to whom it is hidden now', async () => {
  const library = await server.library({ readersSeePast: true, sight: { draft: ['author', 'reader'] } });
  const { id } = await server.document(library, 'hushed words');
  server.pass(1);
  await (
    await server.as('author')
  )
    .post(`/api/v1/documents/${id}/publish`)
    .send({ comment: 'Out' })
    .expect(201);
  server.pass(1);
  const then = server.now;
  const madeOf = async (): Promise<unknown> => {
    const { body } = await get('reader', `/documents/${id}/versions/1.0?${at(then)}`);
    return (body as contract.Version).origin.from;
  };
  server.pass(1);
  expect(await madeOf()).toBe('0.1');
  await server.rules(library, { sight: { draft: [], inApproval: [], rejected: [] } });
  expect(await madeOf()).toBeNull();
});

test('nobody sees what they did not see then, or may not see now', async () => {
  const { library, id, first, second, draft } = await document();
  const seen = async (account: string, moment: Date): Promise<string[]> => {
    const { body } = await get(account, `/documents/${id}/versions?${at(moment)}`);
    return ((body as contract.VersionList).items ?? []).map(({ label }) => label);
  };
  // A reader saw 1.0 then; now it is superseded, and not for them.
  expect(await seen('reader', first)).toEqual([]);
  expect(await seen('reader', second)).toEqual(['2.0']);
  expect(await seen('author2', draft)).toEqual(['2.1', '2.0', '1.0']);
  await server.rules(library, { sight: { draft: [], inApproval: [], rejected: [] } });
  // Drafts are hidden from them now, so they are then.
  expect(await seen('author2', draft)).toEqual(['2.0', '1.0']);
  await server.rules(library, { readersSeePast: true, sight: { draft: ['author', 'reader'] } });
  // Readers see drafts now, but did not then; nor past versions.
  expect(await seen('reader', draft)).toEqual(['2.0']);
  expect(await seen('reader', server.now)).toEqual(['2.1', '2.0', '1.0']);
  const later = await server.caller('late');
  const members = (await (await server.as('controller')).get(`/api/v1/libraries/${library}/members`))
    .body as {
    account: string;
    roles: string[];
  }[];
  server.pass(1);
  await (
    await server.as('controller')
  )
    .put(`/api/v1/libraries/${library}/members`)
    .send([
      ...members.map(({ account, roles }) => ({ account, roles })),
      { account: later.account, roles: ['author'] },
    ])
    .expect(200);
  // Who became a member later sees nothing of before.
  expect(await seen('late', draft)).toEqual([]);
  expect(await seen('late', server.now)).toEqual(['2.1', '2.0', '1.0']);
});

test('who belonged to the team then is asked, and a moment that came before the sweep did', async () => {
  const { id, first, draft } = await document({ sight: { draft: [], inApproval: [], rejected: [] } });
  const labels = async (account: string, moment: Date): Promise<string[]> =>
    ((await get(account, `/documents/${id}/versions?${at(moment)}`)).body as contract.VersionList).items.map(
      ({ label }) => label,
    );
  const owned = new Date(server.now.getTime());
  await (
    await server.as('controller')
  )
    .patch(`/api/v1/documents/${id}`)
    .send({ fields: { owner: 'author2' } })
    .expect(200);
  expect(await labels('author2', new Date(owned.getTime() - 1))).toEqual(['2.0', '1.0']);
  expect(await labels('author2', owned)).toEqual(['2.1', '2.0', '1.0']);
  expect((await get('author2', `/documents/${id}?${at(first)}`)).body).toMatchObject({
    owner: { account: 'author' },
  });
  server.pass(1);
  const moment = new Date(server.now.getTime() + 3_600_000);
  await (
    await server.as('author')
  )
    .post(`/api/v1/documents/${id}/publish`)
    .send({ comment: 'Later', inForceFrom: moment.toISOString() })
    .expect(201);
  server.pass(5);
  await bringDueIntoForce(server.context);
  const inForce = async (of: Date): Promise<string | undefined> =>
    ((await get('author', `/documents/${id}?${at(of)}`)).body as contract.Document).inForce?.label;
  expect(await inForce(new Date(moment.getTime() - 1))).toBe('2.0');
  expect(await inForce(moment)).toBe('3.0');
  expect(await inForce(draft)).toBe('2.0');
});

test('the list of what was in force comes as JSON, .csv and .xlsx; what happened between two days in order', async () => {
  const { library, id, number, first, second } = await document({ readersSeePast: true });
  await server.document(library, 'another', { level: 'major', title: '=SUM(A1)' });
  const list = (moment: Date, type: string) =>
    server.as('reader').then((agent) =>
      agent
        .get(`/api/v1/libraries/${library}/in-force?${at(moment)}`)
        .set('Accept', type)
        .buffer(true),
    );
  expect((await list(second, 'application/json')).body).toMatchObject({
    items: [{ document: { id, number }, version: '2.0', new: false }],
    total: 1,
  });
  const csv = await list(server.now, 'text/csv');
  expect(csv.headers['content-disposition']).toContain('in-force.csv');
  const table = Papa.parse<Record<string, string>>(csv.text.trim(), { header: true });
  expect(table.errors).toEqual([]);
  // What a spreadsheet would compute is told as text.
  expect(table.data.map(({ Title, Version }) => `${Title} ${Version}`)).toEqual([
    'Opening the line 2.0',
    "'=SUM(A1) 1.0",
  ]);
  const workbook = await (
    await server.as('reader')
  )
    .get(`/api/v1/in-force?${at(server.now)}`)
    .set('Accept', 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet')
    .buffer(true)
    .parse((res, done) => {
      const parts: Buffer[] = [];
      res.on('data', (part: Buffer) => parts.push(part)).on('end', () => done(null, Buffer.concat(parts)));
    });
  const shared = strFromU8(
    unzipSync(workbook.body as Uint8Array)['xl/sharedStrings.xml'] ?? new Uint8Array(),
  );
  expect(shared).toContain('Opening the line');
  const days = (query: string, account = 'reader') => get(account, `/libraries/${library}/days?${query}`);
  const range = `from=${new Date(first.getTime() - 1000).toISOString()}&to=${server.now.toISOString()}`;
  const told = (body: unknown): string[] =>
    (body as contract.Days).items.map((item) => `${item.what} ${item.document.number} ${item.version}`);
  const second2 = (await days(range)).body as contract.Days;
  expect(told(second2).slice(0, 3)).toEqual([
    `inForce ${number} 1.0`,
    `left ${number} 1.0`,
    `inForce ${number} 2.0`,
  ]);
  const pages: string[] = [];
  for (let cursor: string | null = ''; cursor !== null;) {
    const page: contract.Days = (await days(`${range}&limit=1${cursor && `&cursor=${cursor}`}`)).body;
    pages.push(...told(page));
    cursor = page.next;
  }
  expect(pages).toEqual(told(second2));
  expect((await days(`from=${server.now.toISOString()}&to=${first.toISOString()}`)).body).toMatchObject({
    code: 'days-order',
  });
  const noTime = Buffer.from(JSON.stringify(['x', 'y'])).toString('base64url');
  expect((await days(`${range}&cursor=${noTime}`)).body).toMatchObject({ code: 'bad-cursor' });
});

test('the calendar tells from when until when each was in force, also twice', async () => {
  const { library, id, number, first, second } = await document({ readersSeePast: true });
  const withdrawn = server.now;
  await (
    await server.as('controller')
  )
    .post(`/api/v1/documents/${id}/withdraw`)
    .send({ version: '2.0', reason: 'Wrong' })
    .expect(200);
  const reigns = async (query = '', account = 'auditor') => {
    const { body } = await get(account, `/libraries/${library}/calendar${query}`);
    return (body as contract.Calendar).items.map(({ document: { number: of }, reigns: own }) => ({
      number: of,
      reigns: own.map(({ version, from, until }) => [version, from, until]),
    }));
  };
  const [one, two, back] = [first, second, withdrawn].map((moment) => moment.toISOString());
  expect(await reigns()).toEqual([
    {
      number,
      reigns: [
        ['1.0', one, two],
        ['2.0', two, back],
        ['1.0', back, null],
      ],
    },
  ]);
  expect(await reigns(`?to=${two}`)).toEqual([
    {
      number,
      reigns: [
        ['1.0', one, two],
        ['2.0', two, null],
      ],
    },
  ]);
  // What was withdrawn is not for readers.
  expect(await reigns('', 'reader')).toEqual([
    {
      number,
      reigns: [
        ['1.0', one, two],
        ['1.0', back, null],
      ],
    },
  ]);
  // It says the same as looking at each moment.
  for (const moment of [first, second, withdrawn]) {
    const then = (await get('auditor', `/documents/${id}?${at(moment)}`)).body as contract.Document;
    const [{ reigns: all } = { reigns: [] }] = await reigns();
    const holds = all.find(([, from, until]) => {
      const time = moment.getTime();
      return Date.parse(from ?? '') <= time && (until === null || time < Date.parse(until ?? ''));
    });
    expect(holds?.[0]).toBe(then.inForce?.label);
  }
});

test('the calendar names a document as the newest version that is seen does', async () => {
  const { library, id } = await document({ readersSeePast: true });
  const controller = await server.as('controller');
  await controller
    .patch(`/api/v1/documents/${id}`)
    .send({ fields: { title: 'A hushed title' }, level: 'major', comment: 'Named' })
    .expect(200);
  await controller.post(`/api/v1/documents/${id}/versions/2.0/thin`).send({ reason: 'Enough' }).expect(200);
  await controller
    .post(`/api/v1/documents/${id}/withdraw`)
    .send({ version: '3.0', reason: 'Wrong' })
    .expect(200);
  // Nothing is in force; a reader sees 1.0, which is past.
  const { body } = await get('reader', `/libraries/${library}/calendar`);
  expect(body).toMatchObject({ items: [{ document: { title: 'Opening the line' } }], total: 1 });
  expect(JSON.stringify(body)).not.toContain('hushed');
});

test('who decided is told with what came of it; the words for whoever could see the run', async () => {
  const library = await server.library({ approval: { on: true, approvers: ['approver'] } });
  const { id, number } = await server.document(library, 'for approval');
  const from = server.now;
  server.pass(1);
  await (
    await server.as('author')
  )
    .post(`/api/v1/documents/${id}/submit`)
    .send({ comment: 'Please' })
    .expect(200);
  const waiting = server.now;
  server.pass(1);
  await (
    await server.as('approver')
  )
    .post(`/api/v1/documents/${id}/decision`)
    .send({ version: '0.1', decision: 'approve', comment: 'Well done' })
    .expect(200);
  const then = (await get('approver', `/documents/${id}?${at(waiting)}`)).body as contract.Document;
  expect(then).toMatchObject({
    inForce: null,
    latest: { label: '0.1', state: 'inApproval', approval: null },
    approval: { version: '0.1', posts: [{ decision: null, comment: '' }], ifApproved: null },
  });
  const days = async (account: string): Promise<contract.Days> =>
    (
      await get(
        account,
        `/libraries/${library}/days?from=${from.toISOString()}&to=${server.now.toISOString()}`,
      )
    ).body;
  const decided = ({ items }: contract.Days) => items.find(({ what }) => what === 'decided');
  expect(decided(await days('author'))).toMatchObject({
    document: { number },
    version: '0.1',
    by: { account: 'approver' },
    decision: 'approve',
    comment: 'Well done',
  });
  expect(decided(await days('reader'))).toMatchObject({ version: '1.0', decision: 'approve', comment: null });
});

test('refused: a moment to come, no moment, another order, and acts', async () => {
  const { library, id } = await document();
  const next = new Date(server.now.getTime() + 1);
  expect((await get('author', `/documents/${id}?${at(next)}`)).body).toMatchObject({ code: 'as-of-future' });
  expect((await get('author', `/documents/${id}?asOf=yesterday`)).body).toMatchObject({
    code: 'invalid-input',
  });
  expect(
    (await get('author', `/libraries/${library}/documents?sort=title&${at(server.now)}`)).body,
  ).toMatchObject({
    code: 'as-of-order',
  });
  const act = await (
    await server.as('author')
  )
    .post(`/api/v1/documents/${id}/checkout?${at(server.now)}`)
    .send({});
  expect(act.body).toMatchObject({ code: 'invalid-input' });
  expect((await get('reader', `/documents/${id}`)).body).toMatchObject({ custody: null });
});

test('libraries are told as they were: with the roles and rules of then, as long as one is a member now', async () => {
  const library = await server.library({ numbering: 'whole' });
  const before = server.now;
  server.pass(1);
  await server.rules(library, { numbering: 'stepped' });
  const admin = await server.as('admin');
  const held = [
    { account: 'controller', roles: ['controller'] },
    { account: 'author', roles: ['reader'] },
  ];
  await admin.put(`/api/v1/libraries/${library}/members`).send(held).expect(200);
  server.pass(1);
  const one = async (account: string, moment: Date) => get(account, `/libraries/${library}?${at(moment)}`);
  const then = await one('author', before);
  expect(then.body).toMatchObject({
    roles: ['author'],
    documents: null,
    bytesKept: null,
    rules: { numbering: 'whole' },
  });
  expect((then.body as contract.Library).acts.create).toMatchObject({
    allowed: false,
    why: expect.stringContaining('can only look') as string,
  });
  expect((await one('author', server.now)).body).toMatchObject({
    roles: ['reader'],
    rules: { numbering: 'stepped' },
  });
  // Who is no member any more, was none then, or looks before there was one, finds no library.
  expect((await one('reader', before)).status).toBe(404);
  expect((await one('author', new Date(before.getTime() - 86_400_000))).status).toBe(404);
  const listed = async (account: string, moment: Date): Promise<boolean> =>
    ((await get(account, `/libraries?${at(moment)}`)).body as { items: contract.Library[] }).items.some(
      ({ id }) => id === library,
    );
  expect([await listed('author', before), await listed('reader', before)]).toEqual([true, false]);
  expect(await listed('author', new Date(before.getTime() - 86_400_000))).toBe(false);
});
