import { execFileSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import fc from 'fast-check';
import { strToU8, zipSync } from 'fflate';
import { closeContext, makeContext } from '../compose.ts';
import { transact } from '../store/database.ts';
import { binary, docxOf } from '../testing/files.ts';
import { TestServer } from '../testing/server.ts';
import {
  forgetArrivals,
  layDown,
  purgeShelf,
  readContent,
  readRange,
  sha256,
  storeContent,
} from './contents.ts';
import { chunkSize, cutPoints, cutStream } from './cut.ts';
import { laidDownFrom, stageFile } from './staging.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
});
afterAll(async () => {
  await server.stop();
});
const store = (bytes: Buffer): Promise<void> =>
  transact(server.context.db, (tx) => storeContent(server.context, bytes, sha256(bytes), tx));
const storedBytes = async (): Promise<number> =>
  Number(
    (
      (await server.context.db.query('SELECT COALESCE(SUM(LENGTH(bytes)), 0) AS n FROM chunks', {
        type: 'SELECT' as never,
      })) as unknown as { n: string }[]
    )[0]?.n,
  );

test('SHA-256 of "abc" is that of FIPS 180-4, appendix (from memory), and the same as coreutils say', () => {
  expect(sha256(strToU8('abc'))).toBe('ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad');
  const bytes = randomBytes(100_000);
  const file = join(server.context.stagingFolder, 'x');
  writeFileSync(file, bytes);
  expect(execFileSync('sha256sum', [file], { encoding: 'utf8' }).slice(0, 64)).toBe(sha256(bytes));
});

test('cuts rise, end with the file, and keep to their bounds', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 2_000_000 }),
      fc.integer({ min: 1, max: 255 }),
      (length, variety) => {
        const bytes = randomBytes(length).map((byte) => byte % variety);
        const points = cutPoints(bytes);
        expect(points.at(-1) ?? 0).toBe(length);
        points.forEach((point, index) => {
          const size = point - (points[index - 1] ?? 0);
          expect(size).toBeGreaterThan(0);
          expect(size).toBeLessThanOrEqual(chunkSize.most);
        });
      },
    ),
    { numRuns: 30 },
  );
});

test('a stream is cut where the whole would be, wherever its parts end', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 1, max: 1_500_000 }),
      fc.array(fc.integer({ min: 1, max: 600_000 }), { minLength: 1, maxLength: 8 }),
      async (length, sizes) => {
        const bytes = randomBytes(length);
        const parts = async function* parts(): AsyncGenerator<Uint8Array> {
          for (let at = 0, turn = 0; at < length; turn += 1) {
            const size = sizes[turn % sizes.length] as number;
            yield bytes.subarray(at, at + size);
            at += size;
          }
        };
        const ends: number[] = [];
        for await (const chunk of cutStream(parts())) ends.push((ends.at(-1) ?? 0) + chunk.length);
        expect(ends).toEqual(cutPoints(bytes));
      },
    ),
    { numRuns: 25 },
  );
});

test('any bytes come back exactly as they went in', async () => {
  for (const length of [1, 100, chunkSize.least, chunkSize.most, chunkSize.most + 1, 3_000_000]) {
    const bytes = randomBytes(length);
    await store(bytes);
    await store(bytes);
    expect((await readContent(server.context, sha256(bytes))).equals(bytes)).toBe(true);
  }
});

test('a version of a large file costs about what changed in it', async () => {
  const first = randomBytes(4_000_000);
  const before = await storedBytes();
  await store(first);
  expect((await storedBytes()) - before).toBe(first.length);
  await store(
    Buffer.concat([
      first.subarray(0, 1_000_000),
      Buffer.from('a passage put in the middle'),
      first.subarray(1_000_000),
    ]),
  );
  expect((await storedBytes()) - before - first.length).toBeLessThan(3 * chunkSize.most);
});

test('a zip-based file shares its unchanged entries even when an earlier entry grows', async () => {
  const picture = randomBytes(500_000);
  const file = (text: string): Buffer =>
    Buffer.from(
      zipSync(
        { 'word/document.xml': strToU8(text), 'word/media/image1.png': [picture, { level: 0 }] },
        { mtime: new Date('2026-01-01') },
      ),
    );
  const before = await storedBytes();
  await store(file('short'));
  const first = await storedBytes();
  await store(file('a text that is a good deal longer than the first one'));
  expect(first - before).toBeGreaterThan(500_000);
  expect((await storedBytes()) - first).toBeLessThan(1_000);
});

test('the same content stored by many at once is stored once', async () => {
  const bytes = randomBytes(700_000);
  const before = await storedBytes();
  await Promise.all(Array.from({ length: 12 }, () => store(bytes)));
  expect((await storedBytes()) - before).toBe(bytes.length);
});

test('every version downloads byte for byte after server and pool are made anew', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'text 0');
  const texts = ['text 1', 'text 2', `text ${'long '.repeat(5000)}`];
  for (const text of texts) await server.change(id, text);
  const url = new URL(process.env['POLYCHRON_DATABASE_URL'] ?? '');
  url.pathname = `/${server.context.db.getDatabaseName()}`;
  const again = makeContext({ ...server.context, databaseUrl: url.href });
  for (const row of await again.models.Version.findAll({ where: { documentId: id } })) {
    const bytes = await readContent(again, row.sha256);
    expect(sha256(bytes)).toBe(row.sha256);
    expect(bytes.length).toBe(Number(row.size));
  }
  await closeContext(again);
  const author = await server.as('author');
  for (const [index, text] of ['text 0', ...texts].entries()) {
    const answer = await author
      .get(`/api/v1/documents/${id}/versions/0.${index + 1}/content`)
      .buffer()
      .parse(binary)
      .expect(200);
    expect(answer.body).toEqual(docxOf(text));
  }
});

test('any part of a content is read, also of one kept before it was noted where chunks begin', async () => {
  const bytes = randomBytes(5_000_000);
  const hash = sha256(bytes);
  await store(bytes);
  const parts = async (start: number, end: number): Promise<Buffer[]> => {
    const read: Buffer[] = [];
    for await (const part of readRange(server.context, hash, { start, end })) read.push(part);
    return read;
  };
  await fc.assert(
    fc.asyncProperty(fc.nat(bytes.length - 1), fc.nat(400_000), async (start, length) => {
      const end = Math.min(start + length, bytes.length - 1);
      expect(Buffer.concat(await parts(start, end)).equals(bytes.subarray(start, end + 1))).toBe(true);
    }),
    { numRuns: 40 },
  );
  await server.context.db.query('UPDATE content_chunks SET starts_at = NULL WHERE content = ?', {
    replacements: [hash],
  });
  const end = (): Promise<Buffer[]> => parts(4_900_000, 4_999_999);
  expect(Buffer.concat(await end()).equals(bytes.subarray(4_900_000))).toBe(true);
});

test('a part of a content is read from the chunk it begins in: what stands before is not looked at', async () => {
  const bytes = randomBytes(5_000_000);
  const hash = sha256(bytes);
  await store(bytes);
  await server.context.db.query('DELETE FROM content_chunks WHERE content = ? AND position < 5', {
    replacements: [hash],
  });
  const read: Buffer[] = [];
  const asked = { start: 4_900_000, end: 4_999_999 };
  for await (const part of readRange(server.context, hash, asked)) read.push(part);
  expect(Buffer.concat(read).equals(bytes.subarray(4_900_000))).toBe(true);
});

describe('a content laid down before the act that keeps it', () => {
  const day = 86_400_000;
  const sourceOf = (bytes: Buffer): { path: string; facts: { size: number } } => {
    const path = join(server.context.stagingFolder, sha256(bytes));
    writeFileSync(path, bytes);
    return { path, facts: { size: bytes.length } };
  };
  /** Lays it down, or its first stretches alone. */
  const lay = (bytes: Buffer, stretches = Infinity, now = server.now): Promise<void> => {
    let left = stretches;
    const proceed = (): Promise<void> =>
      (left -= 1) < 0 ? Promise.reject(new Error('cut off')) : Promise.resolve();
    return layDown(server.context, sourceOf(bytes), { hash: sha256(bytes), now, proceed });
  };
  const parts = async (bytes: Buffer): Promise<number> => {
    const [row] = (await server.context.db.query(
      'SELECT COUNT(*) AS n FROM content_chunks WHERE content = ?',
      { replacements: [sha256(bytes)], type: 'SELECT' as never },
    )) as unknown as { n: number }[];
    return Number(row?.n);
  };

  test('is taken over whole by the act, which writes no byte of it', async () => {
    const bytes = randomBytes(3_000_000);
    await lay(bytes);
    const gone = { path: '/nowhere', facts: { size: bytes.length } };
    await transact(server.context.db, (tx) => storeContent(server.context, gone, sha256(bytes), tx));
    expect((await readContent(server.context, sha256(bytes))).equals(bytes)).toBe(true);
    // Laid down again, kept again: it is there already.
    await lay(bytes, 0);
    await transact(server.context.db, (tx) => storeContent(server.context, gone, sha256(bytes), tx));
  });

  test('is not taken for whole where laying it down was cut off', async () => {
    const bytes = randomBytes(3_000_000);
    await expect(lay(bytes, 1)).rejects.toThrow('cut off');
    expect(await parts(bytes)).toBeGreaterThan(0);
    await store(bytes);
    expect((await readContent(server.context, sha256(bytes))).equals(bytes)).toBe(true);
    const other = randomBytes(3_000_000);
    await expect(lay(other, 1)).rejects.toThrow('cut off');
    await lay(other);
    expect(await parts(other)).toBe(cutPoints(other).length);
  });

  test('goes after a day if no act kept it, and not before', async () => {
    const [left, halfway, kept] = [randomBytes(2_000_000), randomBytes(3_000_000), randomBytes(2_000_000)];
    const began = new Date(server.now.getTime());
    await forgetArrivals(server.context, new Date(began.getTime() + 2 * day));
    await lay(left);
    await expect(lay(halfway, 1)).rejects.toThrow('cut off');
    await lay(kept);
    await transact(server.context.db, (tx) => storeContent(server.context, kept, sha256(kept), tx));
    // Nothing else counts it among what was left on the shelf.
    await purgeShelf(server.context, began);
    expect(await forgetArrivals(server.context, new Date(began.getTime() + day))).toBe(0);
    expect(await parts(left)).toBeGreaterThan(0);
    const before = await storedBytes();
    expect(await forgetArrivals(server.context, new Date(began.getTime() + day + 1))).toBe(2);
    expect([await parts(left), await parts(halfway)]).toEqual([0, 0]);
    expect(before - (await storedBytes())).toBeGreaterThan(2_000_000);
    // It may come again.
    await lay(left);
    await store(left);
    expect((await readContent(server.context, sha256(left))).equals(left)).toBe(true);
  });

  test('happens to every large file while it is staged', async () => {
    const bytes = randomBytes(laidDownFrom + 1);
    const file = await stageFile(server.context, Readable.from([bytes]), 'tower.bin');
    expect(await parts(bytes)).toBe(cutPoints(bytes).length);
    await file.remove();
    await transact(server.context.db, (tx) => storeContent(server.context, file, sha256(bytes), tx));
    expect((await readContent(server.context, sha256(bytes))).equals(bytes)).toBe(true);
  });
});
