import {
  existsSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Client } from './client.ts';
import { checkOut } from './commands/checkOut.ts';
import { save } from './commands/save.ts';
import { watch } from './commands/watch.ts';
import { heldIn, notesName } from './folder.ts';

/** A server that answers as it likes; what it was sent, and what it says at an address. */
interface Liar {
  address: string;
  sent: string[];
  says: Record<string, unknown>;
  leadsTo: string | null;
}
const servers: Server[] = [];
async function liar(): Promise<Liar> {
  const one: Liar = { address: '', sent: [], says: {}, leadsTo: null };
  const answer = async (req: IncomingMessage, res: ServerResponse): Promise<void> => {
    let body = '';
    for await (const part of req) body += String(part);
    one.sent.push(`${req.method} ${req.url} ${body}`);
    if (one.leadsTo !== null) {
      res.writeHead(308, { location: `${one.leadsTo}${req.url}` }).end();
      return;
    }
    const path = (req.url ?? '').split('?')[0] ?? '';
    const said = one.says[path.slice('/api/v1'.length)] ?? {};
    res.setHeader('Content-Type', 'application/json');
    res.end(typeof said === 'string' ? said : JSON.stringify(said));
  };
  const server = createServer((req, res) => void answer(req, res));
  servers.push(server);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  one.address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  return one;
}

let outside: string;
let folder: string;
beforeEach(() => {
  outside = mkdtempSync(join(tmpdir(), 'polychron-lying-'));
  folder = mkdtempSync(join(outside, 'folder-'));
  jest.spyOn(process.stdout, 'write').mockImplementation(() => true);
});
afterEach(() => {
  jest.restoreAllMocks();
  for (const server of servers.splice(0)) server.close();
  rmSync(outside, { recursive: true, force: true });
});

/** What a server says of a document whose file it gives a name. */
const document = (fileName: string) => ({
  '/libraries': { items: [{ id: 'l', code: 'OP', formerCodes: [] }] },
  '/libraries/l/documents': {
    items: [{ id: 'd', number: 'OP-001', custody: { mine: true }, latest: { fileName } }],
  },
  '/documents/d/checkout': { base: '1.0', until: null },
  '/documents/d/checkout/content': 'written by a stranger',
});

test.each([
  ['../above.txt', 'above.txt'],
  ['/etc/cron.d/above', 'above'],
  ['..\\..\\above.txt', 'above.txt'],
  ['.bashrc', 'bashrc'],
  ['..', 'document'],
  ['a\u0000b\u001b[2J.txt', 'ab[2J.txt'],
  [notesName, 'polychron.json'],
])('a file called %j comes into the folder, and nowhere else', async (given, name) => {
  const server = await liar();
  server.says = document(given);
  await checkOut(new Client(server.address, 'token'), 'OP-001', { folder });
  expect(readdirSync(folder).sort()).toEqual([notesName, name].sort());
  expect(readdirSync(outside)).toHaveLength(1);
  expect(Object.keys(await heldIn(folder))).toEqual([name]);
});

test('what stands there is not written over, nor what a link of that name leads to', async () => {
  const server = await liar();
  server.says = document('mine.txt');
  const target = join(outside, 'target');
  symlinkSync(target, join(folder, 'mine.txt'));
  const asked = checkOut(new Client(server.address, 'token'), 'OP-001', { folder });
  await expect(asked).rejects.toThrow('is there already');
  expect(existsSync(target)).toBe(false);
});

test('a folder of a stranger sends nothing but files that lie in it', async () => {
  const server = await liar();
  const secret = join(outside, 'secret.txt');
  writeFileSync(secret, 'my key');
  const note = {
    server: server.address,
    documentId: 'd',
    number: 'OP-001',
    base: '1.0',
    sha256: '0'.repeat(64),
  };
  const notes = (name: string): void =>
    writeFileSync(join(folder, notesName), JSON.stringify({ [name]: note }));
  const client = new Client(server.address, 'token');
  symlinkSync(secret, join(folder, 'linked.txt'));
  notes('linked.txt');
  await expect(save(client, join(folder, 'linked.txt'))).rejects.toThrow('is a link');
  for (const name of ['../secret.txt', '..', '']) {
    notes(name);
    const watching = watch(client, { folder, signal: AbortSignal.timeout(1000) });
    await expect(watching).rejects.toThrow();
  }
  expect(server.sent).toEqual([]);
});

test('what is meant for one server does not go where it leads', async () => {
  const [server, other] = [await liar(), await liar()];
  server.says = document('mine.txt');
  const client = new Client(server.address, 'token');
  await checkOut(client, 'OP-001', { folder });
  server.leadsTo = other.address;
  writeFileSync(join(folder, 'mine.txt'), 'what I wrote');
  await expect(save(client, join(folder, 'mine.txt'))).rejects.toThrow(`leads to ${other.address}`);
  expect(other.sent).toEqual([]);
  expect(readFileSync(join(folder, 'mine.txt'), 'utf8')).toBe('what I wrote');
});
