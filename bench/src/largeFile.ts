import { createCipheriv, createHash, randomBytes } from 'node:crypto';
import { createWriteStream, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { openConnection } from '@polychron/server';
import { megabytes, pause, Running } from './running.ts';
import { tell } from './tell.ts';

/**
 * A file of one gigabyte over the drive, both ways, beside the same bytes hashed into a file and put into
 * bare rows; then fifty programs that open, save and close at once. What the server process holds, its
 * threads counted, is read all the while. Run by scripts/bench, which gives it a database of its own.
 */
const size = Number(process.env['POLYCHRON_BENCH_BYTES'] ?? 2 ** 30);
const programs = 50;
const mostMemory = 600e6;

/** Bytes that nothing makes smaller, the same for the same seed. */
async function* noise(seed: string): AsyncGenerator<Buffer> {
  const key = createHash('sha256').update(seed).digest();
  const cipher = createCipheriv('aes-256-ctr', key, Buffer.alloc(16));
  const zeros = Buffer.alloc(1 << 20);
  for (let left = size; left > 0; left -= zeros.length)
    yield cipher.update(zeros.subarray(0, Math.min(left, zeros.length)));
}
async function hashOf(parts: AsyncIterable<Uint8Array>): Promise<string> {
  const hash = createHash('sha256');
  for await (const part of parts) hash.update(part);
  return hash.digest('hex');
}
async function seconds(work: () => Promise<unknown>): Promise<number> {
  const began = performance.now();
  await work();
  return (performance.now() - began) / 1000;
}

const running = new Running();
await running.start();
const headers = { cookie: await running.cookieOf('author'), 'Content-Type': 'application/json' };
const answer = await fetch(`${running.base}/tokens`, {
  method: 'POST',
  headers,
  body: JSON.stringify({ name: 'bench' }),
});
const { token } = (await answer.json()) as { token: string };
const authorization = `Basic ${Buffer.from(`author:${token}`).toString('base64')}`;

/** One request of a program; anything but what is `wanted` ends the benchmark. */
async function ask(
  method: string,
  path: string,
  wanted: number[],
  init: RequestInit = {},
): Promise<Response> {
  const sent = { authorization, ...(init.headers as Record<string, string> | undefined) };
  // A body that streams goes one way (Fetch Standard, "duplex").
  const options = { ...init, method, headers: sent, duplex: 'half' } as RequestInit;
  const got = await fetch(`${running.origin}/dav/${path}`, options);
  if (!wanted.includes(got.status)) throw new Error(`${method} ${path}: ${got.status} ${await got.text()}`);
  return got;
}
const streamOf = (seed: string): ReadableStream =>
  Readable.toWeb(Readable.from(noise(seed))) as ReadableStream;
const bodyOf = (got: Response): AsyncIterable<Uint8Array> => got.body as unknown as AsyncIterable<Uint8Array>;

const folder = mkdtempSync(join(tmpdir(), 'bench-large-'));
const db = await openConnection(process.env['POLYCHRON_DATABASE_URL'] ?? '');
await db.query('CREATE TABLE bare_chunks (position INT PRIMARY KEY, bytes LONGBLOB NOT NULL)');
const bareUp = await seconds(async () => {
  const hash = createHash('sha256');
  const copy = createWriteStream(join(folder, 'bare'));
  await pipeline(async function* hashed() {
    for await (const part of noise('one')) {
      hash.update(part);
      yield part;
    }
  }, copy);
  let position = 0;
  for await (const part of noise('one')) {
    const rows: [number, Buffer][] = [];
    for (let at = 0; at < part.length; at += 1 << 16)
      rows.push([position++, part.subarray(at, at + (1 << 16))]);
    await db.query(`INSERT INTO bare_chunks VALUES ${rows.map(() => '(?, ?)').join()}`, rows.flat());
  }
});
const bareDown = await seconds(async () => {
  for (let at = 0; ; at += 16) {
    const rows = await db.query<{ bytes: Buffer }[]>(
      'SELECT bytes FROM bare_chunks WHERE position >= ? AND position < ?',
      [at, at + 16],
    );
    if (rows.length < 16) return;
  }
});
await db.query('DROP TABLE bare_chunks');

const atRest = running.held('VmRSS');
const up = await seconds(() => ask('PUT', 'OP/tower.bin', [201], { body: streamOf('one') }));
const place = 'OP/tower.bin';
let told = '';
const down = await seconds(async () => {
  told = await hashOf(bodyOf(await ask('GET', place, [200])));
});
if (told !== (await hashOf(noise('one')))) throw new Error('what came back is not what went in');
const range = await seconds(async () => {
  const got = await ask('GET', place, [206], { headers: { Range: 'bytes=-100000' } });
  if ((await got.arrayBuffer()).byteLength !== 100_000) throw new Error('the range is not what was asked');
});
console.log(
  `up ${up.toFixed(1)} s, bare ${bareUp.toFixed(1)} s; down ${down.toFixed(1)} s, bare ${bareDown.toFixed(1)} s; its last 100 kB ${Math.round(range * 1000)} ms`,
);
console.log(`server at rest ${megabytes(atRest)}, at most ${megabytes(running.held('VmHWM'))} so far`);

const lockBody =
  '<lockinfo xmlns="DAV:"><lockscope><exclusive/></lockscope><locktype><write/></locktype><owner>bench</owner></lockinfo>';
const saved = 5;
const many = await seconds(() =>
  Promise.all(
    Array.from({ length: programs }, async (_, one) => {
      const path = `OP/part-${one}.bin`;
      await ask('PUT', path, [201], { body: randomBytes(1 << 20) });
      const lock =
        (await ask('LOCK', path, [200], { body: lockBody, headers: { Timeout: 'Second-600' } })).headers.get(
          'lock-token',
        ) ?? '';
      for (let save = 0; save < saved; save += 1)
        await ask('PUT', path, [204], { body: randomBytes(2 << 20), headers: { If: `(${lock})` } });
      await ask('UNLOCK', path, [204], { headers: { 'Lock-Token': lock } });
    }),
  ),
);
const most = running.held('VmHWM');
await pause(3000);
console.log(`${programs} programs at once, ${saved} saves of 2 MB each: ${many.toFixed(1)} s`);
console.log(`server at most ${megabytes(most)}, a few seconds after ${megabytes(running.held('VmRSS'))}`);
tell('a gigabyte up', up / bareUp, 3);
tell('a gigabyte down', down / bareDown, 3);
tell('memory of 600 MB', most / mostMemory, 1);
await db.end();
await running.stop();
rmSync(folder, { recursive: true, force: true });
