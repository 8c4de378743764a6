import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { strToU8, unzipSync, zipSync } from 'fflate';
import type * as contract from '@polychron/contract';
import { readMark } from '@polychron/core';
import { tellOfOverdue } from '../acts/tellOfOverdue.ts';
import { purgeShelf, sha256 } from '../content/contents.ts';
import { rows } from '../store/database.ts';
import { binary, docxOf } from '../testing/files.ts';
import { Listening } from '../testing/events.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();
let library: string;
beforeAll(async () => {
  library = await server.library();
});

const read = async (id: string, account = 'author'): Promise<contract.Document> =>
  (await (await server.as(account)).get(`/api/v1/documents/${id}`).expect(200)).body as contract.Document;
const hold = async (id: string, account = 'author', body: object = {}): Promise<void> => {
  await (await server.as(account)).post(`/api/v1/documents/${id}/checkout`).send(body).expect(201);
};
const save = async (
  id: string,
  bytes: Buffer,
  account = 'author',
  query = '',
  headers: Record<string, string> = {},
) =>
  (await server.as(account))
    .put(`/api/v1/documents/${id}/checkout/content${query}`)
    .set({ 'Content-Type': 'application/octet-stream', ...headers })
    .send(bytes);
const put = async (
  id: string,
  bytes: Buffer | null,
  more: Record<string, string> = {},
  account = 'author',
  name = 'op.docx',
) => {
  const form = (await server.as(account))
    .post(`/api/v1/documents/${id}/checkin`)
    .field({ comment: 'Changed', level: 'minor', ...more });
  return bytes ? form.attach('file', bytes, name) : form;
};
const lift = async (id: string, reason = 'On leave until Monday') =>
  (await server.as('controller')).post(`/api/v1/documents/${id}/checkout/lift`).send({ reason });
const desk = async (account = 'author'): Promise<contract.Desk> =>
  (await (await server.as(account)).get('/api/v1/desk').expect(200)).body as contract.Desk;
const bytesOf = async (path: string, account = 'author'): Promise<Buffer> =>
  (await (await server.as(account)).get(`/api/v1${path}`).buffer().parse(binary).expect(200)).body as Buffer;
const history = async (id: string, account = 'author'): Promise<contract.CustodyPeriod[]> =>
  (
    (await (await server.as(account)).get(`/api/v1/documents/${id}/custody`).expect(200))
      .body as contract.CustodyHistory
  ).items;
async function textDocument(
  words: string,
  name = 'notes.txt',
  account = 'author',
): Promise<contract.Document> {
  return (
    await (
      await server.as(account)
    )
      .post(`/api/v1/libraries/${library}/documents`)
      .field('fields', '{"title":"Notes"}')
      .field('comment', 'First')
      .attach('file', Buffer.from(words), name)
      .expect(201)
  ).body as contract.Document;
}

test('5: 8 of whole numbers, then stepped with approval: giving back leaves 8, kept after check-in 8.1, approved 9.0', async () => {
  const own = await server.library({ numbering: 'whole' });
  const { id } = await server.document(own, 'one', { level: 'major' });
  for (let number = 2; number <= 8; number += 1) await server.change(id, `text ${number}`, 'major');
  await server.rules(own, {
    numbering: 'stepped',
    approval: { on: true, mode: 'anyOne', approvers: ['approver'] },
    sight: { draft: ['approver'] },
  });
  await hold(id);
  expect((await read(id)).toCome).toMatchObject({ minor: '8.1' });
  await (await server.as('author')).delete(`/api/v1/documents/${id}/checkout`).expect(204);
  expect((await read(id)).latest.label).toBe('8');
  await hold(id);
  expect((await put(id, docxOf('nine'), { keepCheckedOut: 'true' })).body).toMatchObject({
    label: '8.1',
    state: 'draft',
  });
  expect((await save(id, docxOf('nine and more'))).status).toBe(200);
  await (await server.as('author')).delete(`/api/v1/documents/${id}/checkout`).expect(204);
  expect(await read(id)).toMatchObject({ latest: { label: '8.1' }, custody: null });
  await (
    await server.as('author')
  )
    .post(`/api/v1/documents/${id}/submit`)
    .send({ version: '8.1' })
    .expect(200);
  expect((await read(id, 'reader')).latest.label).toBe('8');
  await (
    await server.as('approver')
  )
    .post(`/api/v1/documents/${id}/decision`)
    .send({ version: '8.1', decision: 'approve' })
    .expect(200);
  expect((await read(id, 'reader')).latest.label).toBe('9.0');
});

test('an end that passed is told to nobody who does not see what is held', async () => {
  const own = await server.library();
  const { id: held } = await server.document(own, 'text');
  const until = new Date(server.now.getTime() + 3_600_000).toISOString();
  await hold(held, 'controller', { reason: 'Checked on site', until });
  await server.expel(own, 'author');
  server.pass(2);
  expect(await tellOfOverdue(server.context)).toBe(1);
  const told = await rows<{ account: string }>(
    server.context.db,
    `SELECT p.account FROM notices n JOIN people p ON p.id = n.person_id
     WHERE n.document_id = :held AND n.kind = 'overdue'`,
    { held },
  );
  expect(told).toEqual([{ account: 'controller' }]);
});

describe('10: a holder goes on leave', () => {
  const lines = (...changed: [number, string][]): Buffer =>
    Buffer.from(
      Array.from(
        { length: 8 },
        (_, index) => `${changed.find(([at]) => at === index)?.[1] ?? `Line ${index}`}\n`,
      ).join(''),
    );
  let id = '';
  beforeAll(async () => {
    ({ id } = await textDocument(lines().toString()));
    await hold(id, 'author', {
      reason: 'Working at the crest',
      until: new Date(server.now.getTime() + 3_600_000).toISOString(),
    });
    await save(id, lines([1, 'Line 1 first try']));
    await save(id, lines([1, 'Line 1 of the holder'], [5, 'Line 5 of the holder']));
    server.pass(2);
  });
  test('overdue: holder, owner and controllers are told once, others not', async () => {
    expect(await tellOfOverdue(server.context)).toBe(1);
    expect(await tellOfOverdue(server.context)).toBe(0);
    expect((await desk()).notices[0]).toMatchObject({
      kind: 'overdue',
      read: false,
      document: { id },
      text: expect.stringContaining('Your check-out') as string,
    });
    expect((await desk('controller')).notices[0]).toMatchObject({
      kind: 'overdue',
      text: expect.stringContaining("A. author's check-out of") as string,
    });
    for (const account of ['author2', 'reader', 'auditor']) expect((await desk(account)).notices).toEqual([]);
    await (
      await server.as('author')
    )
      .post('/api/v1/notices/read')
      .send({ upTo: (await desk()).notices[0]?.id })
      .expect(204);
    expect((await desk()).unread).toBe(0);
  });
  test('lifted with a reason by a controller only: the document is free, the working copy on the Desk of its holder', async () => {
    expect(
      (await (await server.as('author2')).post(`/api/v1/documents/${id}/checkout/lift`).send({ reason: 'x' }))
        .status,
    ).toBe(403);
    expect((await lift(id, '')).body).toMatchObject({ status: 422, code: 'reason-missing' });
    expect((await lift(id)).body).toMatchObject({
      custody: null,
      setAside: [{ holder: { account: 'author' }, base: '0.1' }],
    });
    expect((await lift(id)).body).toMatchObject({ status: 409, code: 'not-checked-out' });
    const { files, notices } = await desk();
    expect(files).toMatchObject([
      {
        kind: 'setAside',
        document: { id },
        base: '0.1',
        latest: '0.1',
        reason: 'On leave until Monday',
        by: { account: 'controller' },
        saves: [{ position: 1 }],
      },
    ]);
    expect(notices[0]).toMatchObject({
      kind: 'lifted',
      text: expect.stringContaining('On leave until Monday') as string,
    });
    expect(await bytesOf(`/desk/files/${files[0]?.id}/content`)).toEqual(
      lines([1, 'Line 1 of the holder'], [5, 'Line 5 of the holder']),
    );
    expect(await bytesOf(`/desk/files/${files[0]?.id}/saves/1/content`)).toEqual(
      lines([1, 'Line 1 first try']),
    );
    for (const account of ['controller', 'author2']) {
      expect((await desk(account)).files).toEqual([]);
      await (await server.as(account)).get(`/api/v1/desk/files/${files[0]?.id}/content`).expect(404);
    }
  });
  test('a colleague checks in; the copy is laid over it, its conflict chosen, and brought in as a merge', async () => {
    await hold(id, 'author2');
    expect(
      (
        await put(
          id,
          lines([1, 'Line 1 of the colleague'], [7, 'Line 7 of the colleague']),
          {},
          'author2',
          'notes.txt',
        )
      ).status,
    ).toBe(201);
    const author = await server.as('author');
    const file = (await desk()).files[0] as contract.DeskFile;
    expect(file).toMatchObject({ base: '0.1', latest: '0.2' });
    const merge = (await author.get(`/api/v1/desk/files/${file.id}/merge`).expect(200))
      .body as contract.Merge;
    // "of the holder" and "of the colleague" stand at the same place of the same line.
    expect(merge).toMatchObject({ base: '0.1', latest: '0.2', format: 'text', conflicts: 1 });
    expect(merge.regions.map(({ kind }) => kind)).toEqual([
      'same',
      'conflict',
      'same',
      'mine',
      'same',
      'present',
    ]);
    const bring = (body: object) =>
      author
        .post(`/api/v1/desk/files/${file.id}/bring-in`)
        .send({ level: 'minor', comment: 'Brought in after the leave', ...body });
    expect((await bring({})).body).toMatchObject({
      status: 409,
      code: 'stale-base',
      base: '0.1',
      latest: '0.2',
    });
    expect((await bring({ choices: {} })).body).toMatchObject({ status: 409, code: 'open-conflicts' });
    expect((await bring({ choices: { 1: 'mine' }, latest: '0.1' })).body).toMatchObject({
      status: 412,
      code: 'merged-with-earlier',
    });
    expect((await bring({ choices: { 1: 'mine' }, comment: '' })).body).toMatchObject({
      status: 422,
      code: 'comment-missing',
    });
    expect((await desk()).files).toHaveLength(1);
    expect((await bring({ choices: { 1: 'mine' }, latest: '0.2' })).body).toMatchObject({
      label: '0.3',
      origin: { kind: 'merge', from: '0.1' },
    });
    expect(await bytesOf(`/documents/${id}/versions/0.3/content`)).toEqual(
      lines([1, 'Line 1 of the holder'], [5, 'Line 5 of the holder'], [7, 'Line 7 of the colleague']),
    );
    expect((await desk()).files).toEqual([]);
    expect((await bring({ choices: { 1: 'mine' } })).status).toBe(404);
  });
  test('of a check-out that was kept over a draft and lifted, readers are told who and when, as while it lasted', async () => {
    const library = await server.library();
    const made = await server.document(library, 'First', { level: 'major' });
    const author = await server.as('author');
    const held = {
      until: new Date(server.now.getTime() + 86_400_000).toISOString(),
      reason: 'Secret reason',
    };
    await author.post(`/api/v1/documents/${made.id}/checkout`).send(held).expect(201);
    server.pass(1);
    const draft = await author
      .post(`/api/v1/documents/${made.id}/checkin`)
      .field({ comment: 'Draft', level: 'minor', keepCheckedOut: 'true' })
      .attach('file', docxOf('Second'), 'op.docx');
    expect([draft.status, (draft.body as contract.Problem).detail]).toEqual([201, undefined]);
    const [lasting] = await history(made.id, 'reader');
    expect(lasting).toMatchObject({ base: null, reason: null, until: null });
    server.pass(1);
    await (
      await server.as('controller')
    )
      .post(`/api/v1/documents/${made.id}/checkout/lift`)
      .send({ reason: 'Over' })
      .expect((answer) => expect(answer.status).toBeLessThan(300));
    const [ended] = await history(made.id, 'reader');
    expect(ended).toMatchObject({ base: null, reason: null, until: null, how: null, endReason: null });
    expect(JSON.stringify(ended)).not.toContain('Secret');
    const [known] = await history(made.id);
    expect(known).toMatchObject({ base: '1.0', reason: 'Secret reason', how: 'lifted' });
  });

  test('the custody history tells who held it, until when, and how that ended; without sight of the base no more than who and when', async () => {
    expect(await history(id)).toMatchObject([
      {
        holder: { account: 'author2' },
        base: '0.1',
        how: 'checkedIn',
        version: '0.2',
        endedBy: { account: 'author2' },
      },
      {
        holder: { account: 'author' },
        base: '0.1',
        how: 'lifted',
        reason: 'Working at the crest',
        endedBy: { account: 'controller' },
        endReason: 'On leave until Monday',
        version: null,
      },
    ]);
    await (await server.as('author')).post(`/api/v1/documents/${id}/publish`).send({}).expect(201);
    expect(await history(id, 'reader')).toMatchObject([
      { holder: { account: 'author2' }, until: null, base: null, how: null, version: null },
      { holder: { account: 'author' }, reason: null, endedBy: null, endReason: null },
    ]);
  });
});

test('a copy set aside of .docx is merged by blocks, and its base is kept by every limit while it waits', async () => {
  const own = await server.library({ keep: { drafts: { stay: 'untilPublished' } } });
  const { id } = await server.document(own, 'one\ntwo\nthree');
  await hold(id);
  await save(id, docxOf('one\ntwo of mine\nthree'), 'author', '', {
    'Content-Disposition': 'attachment; filename="op.docx"',
  });
  await lift(id);
  await server.change(id, 'one\ntwo\nthree of theirs\nfour', 'major', 'author2');
  expect(await server.kept(id)).toEqual(['1.0', '0.1']);
  const [file] = (await desk()).files;
  const made = await (
    await server.as('author')
  )
    .post(`/api/v1/desk/files/${file?.id}/bring-in`)
    .send({ level: 'minor', comment: 'Mine too', choices: {} })
    .expect(201);
  expect(made.body).toMatchObject({ label: '1.1', words: 8 });
  const reading = (
    await (await server.as('author')).get(`/api/v1/documents/${id}/versions/1.1/reading`).expect(200)
  ).body as contract.Reading;
  expect(JSON.stringify(reading.blocks)).toMatch(/two of mine.*three of theirs.*four/);
  await server.rules(own, { keep: { drafts: { stay: 'untilPublished' } }, graceDays: 10 });
  expect(await server.kept(id)).toEqual(['1.1', '1.0']);
});

describe('the working copy', () => {
  test('saves are steps: looked at, gone back to, compared with the base; those of one sitting are one', async () => {
    const { id } = await textDocument('first\n');
    await hold(id);
    for (const words of ['a\n', 'ab\n', 'abc\n'])
      expect((await save(id, Buffer.from(words), 'author', '?sitting=morning')).body).toMatchObject({
        saves: 1,
      });
    expect((await save(id, Buffer.from('first\nsecond\n'))).body).toMatchObject({ saves: 2 });
    const author = await server.as('author');
    expect(
      ((await author.get(`/api/v1/documents/${id}/checkout/saves`)).body as { items: object[] }).items,
    ).toMatchObject([
      { position: 1, size: 4 },
      { position: 2, size: 13 },
    ]);
    expect((await bytesOf(`/documents/${id}/checkout/saves/1/content`)).toString()).toBe('abc\n');
    expect((await author.get(`/api/v1/documents/${id}/checkout/compare`)).body).toMatchObject({
      from: '0.1',
      counts: { wordsInserted: 1, wordsDeleted: 0 },
    });
    await author.post(`/api/v1/documents/${id}/checkout/saves/1/go-back`).expect(200);
    expect((await bytesOf(`/documents/${id}/checkout/content`)).toString()).toBe('abc\n');
    expect((await read(id)).custody).toMatchObject({ saves: 3 });
    await author.get(`/api/v1/documents/${id}/checkout/saves/9/content`).expect(404);
    for (const account of ['author2', 'controller'])
      await (await server.as(account)).get(`/api/v1/documents/${id}/checkout/saves/1/content`).expect(409);
    expect((await put(id, null)).body).toMatchObject({ label: '0.2', sha256: sha256(Buffer.from('abc\n')) });
  });
  test('of two windows the one that loaded earlier is told, and overwrites nothing', async () => {
    const { id } = await textDocument('first\n');
    await hold(id);
    const tag = (words: string): Record<string, string> => ({
      'If-Match': `"${sha256(Buffer.from(words))}"`,
    });
    expect((await save(id, Buffer.from('mine\n'), 'author', '?sitting=a', tag('first\n'))).status).toBe(200);
    expect(
      (await save(id, Buffer.from('other\n'), 'author', '?sitting=b', tag('first\n'))).body,
    ).toMatchObject({ status: 412, code: 'working-copy-changed' });
    expect((await bytesOf(`/documents/${id}/checkout/content`)).toString()).toBe('mine\n');
    expect((await save(id, Buffer.from('other\n'), 'author', '?sitting=b', tag('mine\n'))).status).toBe(200);
  });
  test('contents of saves that nothing names any more are cleared away, others are not', async () => {
    const { id } = await textDocument('kept\n');
    await hold(id);
    await save(id, Buffer.from('gone when given back\n'));
    await save(id, Buffer.from('kept\n'));
    await (await server.as('author')).delete(`/api/v1/documents/${id}/checkout`).expect(204);
    const file = (
      await (
        await server.as('author')
      )
        .post('/api/v1/desk/files')
        .attach('file', Buffer.from('on the desk\n'), 'a.txt')
        .expect(201)
    ).body as contract.DeskFile;
    expect(await purgeShelf(server.context, server.now)).toBeGreaterThanOrEqual(1);
    const left = async (words: string): Promise<number> =>
      (
        await rows(
          server.context.db,
          'SELECT 1 AS n FROM contents WHERE sha256 = :hash AND purged_at IS NULL',
          { hash: sha256(Buffer.from(words)) },
        )
      ).length;
    expect([await left('gone when given back\n'), await left('kept\n'), await left('on the desk\n')]).toEqual(
      [0, 1, 1],
    );
    await (await server.as('author')).delete(`/api/v1/desk/files/${file.id}`).expect(204);
  });
});

describe('files that say which version they were taken from', () => {
  let id = '';
  /** A .docx as pandoc makes it, from words. */
  const pandoc = (words: string): Buffer => {
    const [source, target] = [
      join(server.context.stagingFolder, 'in.md'),
      join(server.context.stagingFolder, 'out.docx'),
    ];
    writeFileSync(source, words);
    execFileSync('pandoc', ['-o', target, source]);
    return readFileSync(target);
  };
  const resaved = (bytes: Buffer, change: (xml: string) => string): Buffer => {
    const parts = unzipSync(bytes);
    parts['word/document.xml'] = strToU8(change(new TextDecoder().decode(parts['word/document.xml'])));
    return Buffer.from(zipSync(parts));
  };
  beforeAll(async () => {
    ({ id } = (
      await (
        await server.as('author')
      )
        .post(`/api/v1/libraries/${library}/documents`)
        .field('fields', '{"title":"Taken"}')
        .field('comment', 'First')
        .attach('file', pandoc('One.'), 'op.docx')
        .expect(201)
    ).body as contract.Document);
  });
  test('the bytes stay as they were checked in unless the mark is asked for', async () => {
    const [plain, marked] = [
      await bytesOf(`/documents/${id}/versions/0.1/content`),
      await bytesOf(`/documents/${id}/versions/0.1/content?marked=1`),
    ];
    expect(sha256(plain)).toBe((await read(id)).latest.sha256);
    expect(sha256(marked)).not.toBe(sha256(plain));
    expect(new TextDecoder().decode(unzipSync(marked)['docProps/custom.xml'])).toContain('0.1');
  });
  test('unchanged but for the mark is asked about as the same', async () => {
    await hold(id);
    const marked = await bytesOf(`/documents/${id}/checkout/content?marked=1`);
    expect((await put(id, marked)).body).toMatchObject({ status: 409, code: 'same-bytes' });
    expect(
      (
        await put(
          id,
          resaved(marked, (xml) => xml.replace('One.', 'Two.')),
        )
      ).body,
    ).toMatchObject({ label: '0.2' });
  });
  test('taken from an earlier version: asked, both named; saved anew by pandoc the mark is lost and nothing is asked', async () => {
    const early = await bytesOf(`/documents/${id}/versions/0.1/content?marked=1`);
    await hold(id);
    const edited = resaved(early, (xml) => xml.replace('One.', 'One and a half.'));
    expect((await put(id, edited)).body).toMatchObject({
      status: 409,
      code: 'stale-base',
      base: '0.1',
      latest: '0.2',
      detail: expect.stringContaining('taken from 0.1; the latest is 0.2') as string,
    });
    expect((await put(id, edited, { confirm: 'stale-base', keepCheckedOut: 'true' })).body).toMatchObject({
      label: '0.3',
    });
    const file = join(server.context.stagingFolder, 'again.docx');
    writeFileSync(join(server.context.stagingFolder, 'marked.docx'), early);
    execFileSync('pandoc', ['-o', file, join(server.context.stagingFolder, 'marked.docx')]);
    expect((await put(id, readFileSync(file))).body).toMatchObject({ label: '0.4' });
  });
  test('a version carries the mark of the one it was made from: of versions with one mark a file is of the one it reads most like', async () => {
    const author = await server.as('author');
    const words = pandoc('One.\n\nTwo.');
    const made = await author
      .post(`/api/v1/libraries/${library}/documents`)
      .field('fields', '{"title":"Saved on"}')
      .attach('file', words, 'op.docx')
      .expect(201);
    const { id: own } = made.body as contract.Document;
    await hold(own);
    const first = await bytesOf(`/documents/${own}/versions/0.1/content?marked=1`);
    const checkIn = async (from: Buffer, old: string, now: string, more = {}) =>
      (
        await put(
          own,
          resaved(from, (xml) => xml.replace(old, now)),
          { keepCheckedOut: 'true', ...more },
        )
      ).body as object;
    expect(await checkIn(first, 'One.', 'One. The grip is checked.')).toMatchObject({ label: '0.2' });
    // A plain download of 0.2 still carries the mark of 0.1; so does the file on one's own disk.
    const second = await bytesOf(`/documents/${own}/versions/0.2/content`);
    expect(await checkIn(second, 'Two.', 'Two. The bell is rung.')).toMatchObject({ label: '0.3' });
    const third = await bytesOf(`/documents/${own}/versions/0.3/content`);
    expect(await checkIn(third, 'checked', 'cleaned')).toMatchObject({ label: '0.4' });
    expect(await checkIn(first, 'One.', 'Once.')).toMatchObject({
      code: 'stale-base',
      base: '0.1',
      latest: '0.4',
    });
    expect(await checkIn(second, 'Two.', 'Twice.')).toMatchObject({
      code: 'stale-base',
      base: '0.2',
      latest: '0.4',
    });
    expect(await checkIn(second, 'Two.', 'Twice.', { confirm: 'stale-base' })).toMatchObject({
      label: '0.5',
    });
  });
  test('equal bytes settle what a file was taken from; an edit of an older copy without a mark is a guess', async () => {
    const author = await server.as('author');
    const words = 'The line is opened.\n\nThe grip is checked.\n\nThe bell is rung.';
    const first = pandoc(words);
    const made = await author
      .post(`/api/v1/libraries/${library}/documents`)
      .field('fields', '{"title":"Guessed"}')
      .field('level', 'major')
      .attach('file', first, 'op.docx')
      .expect(201);
    const { id: own } = made.body as contract.Document;
    const second = pandoc(`${words}\n\nNobody boards before the all-clear of the valley station.`);
    const more = { level: 'major', keepCheckedOut: 'true' };
    await hold(own);
    expect((await put(own, second, more)).body).toMatchObject({ label: '2.0' });
    // What was just checked in, again; and what it says of itself does not matter then.
    const marked = await bytesOf(`/documents/${own}/versions/1.0/content?marked=1`);
    const third = resaved(marked, (xml) => xml.replace('rung', 'rung twice'));
    expect((await put(own, third, { ...more, confirm: 'stale-base' })).body).toMatchObject({ label: '3.0' });
    expect((await put(own, third, more)).body).toMatchObject({ code: 'same-bytes', base: '3.0' });
    // Byte for byte an earlier publication, without a mark.
    expect((await put(own, second, more)).body).toMatchObject({ code: 'stale-base', base: '2.0' });
    // Edited from it, without one: said as what it is.
    const edited = resaved(second, (xml) => xml.replace('opened', 'opened at six'));
    expect((await put(own, edited, more)).body).toMatchObject({
      code: 'stale-base',
      guess: true,
      detail: expect.stringContaining(
        'seems to be an edit of 2.0, which it reads more like than 3.0',
      ) as string,
    });
    // An edit of the latest asks nothing.
    const next = resaved(pandoc(words.replace('rung', 'rung twice')), (xml) =>
      xml.replace('grip', 'rope grip'),
    );
    expect((await put(own, next, more)).body).toMatchObject({ label: '4.0' });
  });
  test('taken from another document: asked', async () => {
    const other = await server.document(library, 'other');
    await hold(other.id);
    const marked = await bytesOf(`/documents/${id}/versions/0.4/content?marked=1`);
    expect((await put(other.id, marked)).body).toMatchObject({
      status: 409,
      code: 'other-document',
      here: other.number,
    });
  });
  test('the comparison knows nothing of the mark', async () => {
    const from = (await read(id)).latest.label;
    await hold(id);
    await put(id, await bytesOf(`/documents/${id}/checkout/content?marked=1`), { confirm: 'same-bytes' });
    const to = (await read(id)).latest.label;
    expect(
      (
        await (
          await server.as('author')
        )
          .get(`/api/v1/documents/${id}/compare?from=${from}&to=${to}`)
          .expect(200)
      ).body,
    ).toMatchObject({ changes: [] });
  });
  test('the working copies of what one holds come as one .zip, each marked', async () => {
    const text = await textDocument('a\n');
    const author = await server.as('author');
    const rope = (
      await author
        .post(`/api/v1/libraries/${library}/documents`)
        .field('fields', '{"title":"Rope"}')
        .attach('file', pandoc('Rope.'), 'rope.docx')
        .expect(201)
    ).body as contract.Document;
    for (const { id } of [text, rope]) await hold(id);
    await save(text.id, Buffer.from('a changed\n'));
    const zip = await bytesOf(`/desk/working-copies?documents=${text.id},${rope.id}`);
    const path = join(server.context.stagingFolder, 'copies.zip');
    writeFileSync(path, zip);
    // Another program reads it too, and checks each entry's CRC-32.
    execFileSync('python3', ['-m', 'zipfile', '-t', path]);
    const files = unzipSync(zip);
    const named = (number: string): string =>
      Object.keys(files).find((name) => name.startsWith(`${number} `)) ?? 'none';
    expect(Object.keys(files)).toHaveLength(2);
    expect(new TextDecoder().decode(files[named(text.number)])).toBe('a changed\n');
    expect(readMark(files[named(rope.number)] ?? new Uint8Array())).toMatchObject({
      number: rope.number,
      label: '0.1',
    });
    const other = await textDocument('c\n');
    await hold(other.id, 'author2');
    const refused = await (
      await server.as('author')
    ).get(`/api/v1/desk/working-copies?documents=${text.id},${other.id}`);
    expect(refused.body).toMatchObject({ status: 403, code: 'not-holder' });
  });

  test('an arrival is known by its mark to whoever sees that version, and is a plain file to others', async () => {
    const marked = await bytesOf(`/documents/${id}/versions/0.4/content?marked=1`);
    const arrive = async (account: string) =>
      (
        await (
          await server.as(account)
        )
          .post('/api/v1/desk/files')
          .attach('file', marked, 'mail.docx')
          .expect(201)
      ).body as contract.DeskFile;
    expect(await arrive('author')).toMatchObject({
      kind: 'arrival',
      document: { id },
      base: '0.4',
      latest: expect.stringMatching(/^0\./) as string,
    });
    const elsewhere = await server.library({ sight: { draft: [] } });
    const hidden = await server.document(elsewhere, 'hidden');
    const secret = await bytesOf(`/documents/${hidden.id}/versions/0.1/content?marked=1`);
    const arrived = (
      await (
        await server.as('author2')
      )
        .post('/api/v1/desk/files')
        .attach('file', secret, 'mail.docx')
        .expect(201)
    ).body as contract.DeskFile;
    expect(arrived).toMatchObject({ document: null, base: null, latest: null });
    await (
      await server.as('reader')
    )
      .post('/api/v1/desk/files')
      .attach('file', marked, 'mail.docx')
      .expect(403);
  });
});

describe('private copies and arrivals', () => {
  test('a private copy is private, overwritten without versions, and comes in as the next version or a new document', async () => {
    const { id } = await textDocument('first\n');
    const author = await server.as('author');
    const copy = (await author.post(`/api/v1/documents/${id}/versions/0.1/loose-copy`).send({}).expect(201))
      .body as contract.DeskFile;
    expect(copy).toMatchObject({ kind: 'looseCopy', base: '0.1', editable: true, fileName: 'notes.txt' });
    const write = (words: string, tag?: string) =>
      author
        .put(`/api/v1/desk/files/${copy.id}/content`)
        .set({ 'Content-Type': 'text/plain', ...(tag ? { 'If-Match': tag } : {}) })
        .send(words);
    expect((await write('second\n', `"${copy.sha256}"`)).status).toBe(200);
    expect((await write('third\n', `"${copy.sha256}"`)).body).toMatchObject({
      status: 412,
      code: 'working-copy-changed',
    });
    expect(await server.labels(id)).toEqual(['0.1']);
    const made = await author
      .post(`/api/v1/desk/files/${copy.id}/bring-in`)
      .send({ level: 'minor', comment: 'From my copy' })
      .expect(201);
    expect(made.body).toMatchObject({
      label: '0.2',
      origin: { kind: 'checkIn', from: '0.1' },
      sha256: sha256(Buffer.from('second\n')),
    });
    const other = (await author.post(`/api/v1/documents/${id}/versions/0.2/loose-copy`).send({}).expect(201))
      .body as contract.DeskFile;
    const fresh = await author
      .post(`/api/v1/desk/files/${other.id}/register`)
      .send({ library, fields: { title: 'A document of its own' }, comment: 'Out of the notes' })
      .expect(201);
    expect(fresh.body).toMatchObject({
      title: 'A document of its own',
      latest: { label: '0.1', fileName: 'notes.txt' },
    });
    await author.get(`/api/v1/desk/files/${other.id}`).expect(404);
  });
  test('whoever does not see a version cannot copy it; a thinned one has nothing to copy', async () => {
    const { id } = await textDocument('first\n');
    await (
      await server.as('reader')
    )
      .post(`/api/v1/documents/${id}/versions/0.1/loose-copy`)
      .send({})
      .expect(404);
    const { id: open } = await server.document(library, 'for all', { level: 'major' });
    const copy = (
      await (
        await server.as('reader')
      )
        .post(`/api/v1/documents/${open}/versions/1.0/loose-copy`)
        .send({})
        .expect(201)
    ).body as contract.DeskFile;
    expect(
      (
        await (
          await server.as('reader')
        )
          .post(`/api/v1/desk/files/${copy.id}/bring-in`)
          .send({ level: 'minor', comment: 'x' })
      ).body,
    ).toMatchObject({ status: 403, code: 'role-missing' });
    const own = await server.library({ sight: { draft: [] } });
    const { id: hidden } = await server.document(own, 'x');
    await (
      await server.as('author2')
    )
      .post(`/api/v1/documents/${hidden}/versions/0.1/loose-copy`)
      .send({})
      .expect(404);
  });
  test('while somebody holds the document nothing is brought in, and the file stays', async () => {
    const { id } = await textDocument('first\n');
    const author = await server.as('author');
    const file = (
      await author
        .post('/api/v1/desk/files')
        .attach('file', Buffer.from('from the mail\n'), 'notes.txt')
        .expect(201)
    ).body as contract.DeskFile;
    await hold(id, 'author2');
    expect(
      (
        await author
          .post(`/api/v1/desk/files/${file.id}/bring-in`)
          .send({ document: id, level: 'minor', comment: 'x' })
      ).body,
    ).toMatchObject({ status: 409, code: 'held' });
    expect(
      (await author.post(`/api/v1/desk/files/${file.id}/bring-in`).send({ level: 'minor', comment: 'x' }))
        .body,
    ).toMatchObject({ status: 422, code: 'document-missing' });
    await author.get(`/api/v1/desk/files/${file.id}`).expect(200);
  });
});

test('bulk: each outcome rehearsed first, then each by itself; a refusal of one leaves the others alone', async () => {
  const [a, b, c] = [await textDocument('a\n'), await textDocument('b\n'), await textDocument('c\n')];
  await hold(c.id, 'author2');
  const author = await server.as('author');
  const ids = [a.id, b.id, c.id];
  const bulk = async (body: object): Promise<contract.BulkOutcomes['outcomes']> =>
    (
      (
        await author
          .post('/api/v1/bulk')
          .send({ documents: ids, ...body })
          .expect(200)
      ).body as contract.BulkOutcomes
    ).outcomes;
  expect(await bulk({ act: 'checkOut', rehearse: true })).toMatchObject([
    { ok: true, text: 'will be checked out at 0.1' },
    { ok: true },
    { ok: false, problem: { code: 'held' } },
  ]);
  expect((await read(a.id)).custody).toBeNull();
  expect((await bulk({ act: 'checkOut' })).map(({ ok }) => ok)).toEqual([true, true, false]);
  await save(a.id, Buffer.from('a changed\n'));
  expect(await bulk({ act: 'checkIn', level: 'minor', rehearse: true })).toMatchObject([
    { ok: true, label: '0.2' },
    { ok: false, problem: { code: 'same-bytes' } },
    { ok: false, problem: { code: 'held' } },
  ]);
  expect(await bulk({ act: 'checkIn', level: 'major', comment: 'All at once' })).toMatchObject([
    { ok: true, label: '1.0', text: 'checked in as 1.0, in force' },
    { ok: false },
    { ok: false },
  ]);
  expect(await bulk({ act: 'giveBack' })).toMatchObject([
    { ok: false, problem: { code: 'not-checked-out' } },
    { ok: true, text: 'given back' },
    { ok: false },
  ]);
  expect(await bulk({ act: 'checkOut', rehearse: true })).toMatchObject([
    { ok: true },
    { ok: true },
    { ok: false },
  ]);
  const hidden = await server.library({ sight: { draft: [] } });
  const { id: secret } = await server.document(hidden, 'x', { title: 'Secret', account: 'author2' });
  const answer = JSON.stringify(
    (
      await author
        .post('/api/v1/bulk')
        .send({ documents: [secret], act: 'checkOut' })
        .expect(200)
    ).body,
  );
  expect(answer).toContain('document-not-found');
  expect(answer).not.toContain('Secret');
});

test('bulk: many are submitted, approved and published; what was foretold of each is what came', async () => {
  const approvers = ['approver', 'approver2'];
  const strict = await server.library({
    approval: { on: true, mode: 'serial', approvers, publishing: 'byOwner' },
  });
  const free = await server.library();
  const drafts = [
    (await server.document(strict, 'a\n')).id,
    (await server.document(free, 'b\n')).id,
    (await server.document(strict, 'c\n')).id,
  ];
  const bulk = async (account: string, body: object): Promise<contract.BulkOutcomes['outcomes']> =>
    (
      (
        await (
          await server.as(account)
        )
          .post('/api/v1/bulk')
          .send({ documents: drafts, ...body })
          .expect(200)
      ).body as contract.BulkOutcomes
    ).outcomes;
  const told = async (account: string, act: string): Promise<[string, string][]> => {
    const before = await bulk(account, { act, rehearse: true });
    const after = await bulk(account, { act, comment: 'All at once' });
    expect(after.map(({ ok }) => ok)).toEqual(before.map(({ ok }) => ok));
    return before.map(({ text }, index) => [text, after[index]?.text ?? '']);
  };
  const [asked, off] = await told('author', 'submit');
  expect(asked).toEqual([
    '0.1 will be submitted; A. approver is asked',
    '0.1 submitted; A. approver is asked',
  ]);
  expect(off?.[0]).toBe(off?.[1]);
  expect((await told('approver', 'approve'))[2]).toEqual([
    '0.1 will be approved; then A. approver2 is asked next',
    '0.1 approved; A. approver2 is asked next',
  ]);
  expect((await read(drafts[0] ?? '')).approval?.waitingFor).toMatchObject([{ account: 'approver2' }]);
  expect((await told('approver2', 'approve'))[0]).toEqual([
    '0.1 will be approved; then its owner publishes it',
    '0.1 approved; its owner publishes it',
  ]);
  expect((await read(drafts[0] ?? '')).latest).toMatchObject({ label: '0.1', state: 'approved' });
  const published = ['0.1 will be published as 1.0, in force', 'published as 1.0, in force'];
  expect(await told('author', 'publish')).toEqual([published, published, published]);
  for (const id of drafts)
    expect((await read(id)).inForce).toMatchObject({ label: '1.0', comment: 'All at once' });
  expect((await bulk('reader', { act: 'publish' })).map(({ ok }) => ok)).toEqual([false, false, false]);
});

describe('what waits on the Desk', () => {
  test('decisions in turn, what was rejected with its comment, and the notice of it', async () => {
    const own = await server.library({
      approval: { on: true, mode: 'serial', approvers: ['approver', 'approver2'] },
    });
    const { id } = await server.document(own, 'a', { account: 'author2' });
    await (
      await server.as('author2')
    )
      .post(`/api/v1/documents/${id}/submit`)
      .send({ comment: 'Please' })
      .expect(200);
    const waits = async (account: string): Promise<boolean> =>
      (await desk(account)).decisions.some(({ document }) => document.id === id);
    expect([await waits('approver'), await waits('approver2'), await waits('author2')]).toEqual([
      true,
      false,
      false,
    ]);
    await (
      await server.as('approver')
    )
      .post(`/api/v1/documents/${id}/decision`)
      .send({ version: '0.1', decision: 'reject', comment: 'span table incomplete' })
      .expect(200);
    expect(await waits('approver')).toBe(false);
    const mine = await desk('author2');
    expect(mine.cameBack).toMatchObject([
      { document: { id }, label: '0.1', by: { account: 'approver' }, comment: 'span table incomplete' },
    ]);
    expect(mine.notices[0]).toMatchObject({
      kind: 'rejected',
      text: expect.stringContaining('span table incomplete') as string,
    });
    expect((await desk('author')).cameBack).toEqual([]);
  });
  test('a notice about a document one no longer sees is not told', async () => {
    const own = await server.library();
    const { id } = await server.document(own, 'a', { account: 'author2' });
    await hold(id, 'author2');
    await save(id, docxOf('b'), 'author2');
    await (
      await server.as('controller')
    )
      .post(`/api/v1/documents/${id}/checkout/lift`)
      .send({ reason: 'Moved on' })
      .expect(200);
    expect((await desk('author2')).notices.some(({ document }) => document.id === id)).toBe(true);
    await server.expel(own, 'author2');
    const left = await desk('author2');
    expect(left.notices.some(({ document }) => document.id === id)).toBe(false);
    // Neither is it counted.
    const { total, unread, items } = (
      await (await server.as('author2')).get('/api/v1/notices?limit=200').expect(200)
    ).body as contract.NoticeList;
    expect([total, unread]).toEqual([items.length, items.filter(({ read: looked }) => !looked).length]);
    expect(left.files.filter(({ kind }) => kind === 'setAside')).toMatchObject([
      { document: null, base: null },
    ]);
  });
});

test('events: each hears of what they see and of no more, and a notice goes to whom it is meant for', async () => {
  const { id } = await server.document(library, 'a', { level: 'major' });
  const listening = await Listening.start(server, ['author', 'author2', 'reader']);
  const count = (account: string, event?: string): number => listening.count(account, event);
  const until = (met: () => boolean): Promise<void> => listening.until(met);

  await hold(id);
  await until(() => count('author2') === 1 && count('reader') === 1);
  await put(id, docxOf('b'), { keepCheckedOut: 'true' });
  await until(() => count('author2') === 2);
  await put(id, docxOf('c'), { level: 'major' });
  // Of the draft that was checked in and kept a reader heard nothing.
  await until(() => count('author2') === 3 && count('reader') === 2);
  // A draft made without custody is nothing to a reader.
  const before = count('reader');
  await (
    await server.as('author')
  )
    .post(`/api/v1/documents/${id}/restore`)
    .send({ from: '1.0', level: 'minor' })
    .expect(201);
  await until(() => count('author2') === 4);
  expect(count('reader')).toBe(before);
  await hold(id);
  await save(id, docxOf('d'));
  await lift(id);
  await until(() => count('author', 'notices') === 1);
  expect(count('author2', 'notices')).toBe(0);
  await listening.stop();
});
