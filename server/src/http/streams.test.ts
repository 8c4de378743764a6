import { request as ask, type IncomingMessage } from 'node:http';
import type { AddressInfo } from 'node:net';
import { PassThrough } from 'node:stream';
import type * as contract from '@polychron/contract';
import type { Response } from 'express';
import { makeToken, openSession, readSession } from '../access/sessions.ts';
import { sendEvents } from '../events/stream.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();

const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => {
    setTimeout(resolve, milliseconds);
  });
const secretOf = async (account: string): Promise<string> =>
  (await makeToken(await server.asker(account), { name: 'stream' })).secret;

/** Opens a stream that is read only where it is told to. */
const open = (secret: string): Promise<IncomingMessage> =>
  new Promise((resolve, reject) => {
    const { port } = server.listener.address() as AddressInfo;
    const headers = { Authorization: `Bearer ${secret}` };
    const asked = ask({ port, host: '127.0.0.1', path: '/api/v1/events', headers, agent: false }, resolve);
    asked.on('error', reject).end();
  });

test('one sign-in listens from a few pages, one person from some; those who leave make room', async () => {
  const [one, other] = [await secretOf('reader'), await secretOf('reader')];
  const streams = [];
  for (let count = 0; count < 13; count += 1) streams.push(await open(one));
  expect(streams.map(({ statusCode }) => statusCode)).toEqual([...Array<number>(12).fill(200), 409]);
  expect((await open(other)).statusCode).toBe(200);
  streams[0]?.destroy();
  for (let tries = 0; tries < 100 && (streams.at(-1)?.statusCode ?? 0) !== 200; tries += 1) {
    await pause(20);
    streams.push(await open(one));
  }
  expect(streams.at(-1)?.statusCode).toBe(200);
  const many = await Promise.all(
    Array.from({ length: 5 }, async () => {
      const secret = await secretOf('reader');
      return Promise.all(Array.from({ length: 12 }, () => open(secret)));
    }),
  );
  expect(many.flat().filter(({ statusCode }) => statusCode === 200)).toHaveLength(48 - 13);
  for (const stream of [...streams, ...many.flat()]) stream.destroy();
});

test('what somebody may know of an event is asked once, however many pages they have open', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'text', { level: 'major' });
  const secret = await secretOf('auditor');
  const streams = await Promise.all(Array.from({ length: 12 }, () => open(secret)));
  const heard = streams.map((stream) => {
    let text = '';
    stream.on('data', (part: Buffer) => (text += part.toString()));
    return () => text;
  });
  await pause(100);
  const asked: string[] = [];
  const { options } = server.context.db as unknown as { options: { logging: unknown } };
  options.logging = (sql: string) => asked.push(sql);
  await (await server.as('author')).post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
  for (let tries = 0; tries < 200 && !heard.every((text) => text().includes('event: document')); tries += 1)
    await pause(20);
  options.logging = false;
  expect(heard.every((text) => text().includes('event: document'))).toBe(true);
  // By the token of all of them, and of the one who acted.
  const signIns = asked.filter((sql) => sql.includes('FROM tokens'));
  expect(signIns.length).toBeGreaterThan(0);
  expect(signIns.length).toBeLessThanOrEqual(3);
  for (const stream of streams) stream.destroy();
});

test('who does not read is told to read everything again, and nothing piles up for them meanwhile', async () => {
  const caller = await server.caller('author2');
  // A connection that takes nothing until it is read.
  const line = new PassThrough({ highWaterMark: 16 });
  const res = Object.assign(line, { status: () => res, set: () => res, flushHeaders: () => undefined });
  const listener = { caller, signIn: 'one', isSignedIn: async () => true };
  const over = sendEvents(server.context, listener, res as unknown as Response);
  const publish = async (count: number): Promise<void> => {
    for (let each = 0; each < count; each += 1) {
      server.context.events.publish({ kind: 'notices', personIds: [caller.id] });
      if (each % 100 === 0) await pause(0);
    }
    await pause(20);
  };
  await publish(4000);
  const waiting = line.writableLength;
  expect(waiting).toBeGreaterThan(64 << 10);
  expect(waiting).toBeLessThan(66 << 10);
  await publish(4000);
  expect(line.writableLength).toBe(waiting);
  let text = '';
  line.on('data', (part: Buffer) => (text += part.toString()));
  for (let tries = 0; tries < 200 && !text.includes('event: everything'); tries += 1) await pause(10);
  expect(text.trimEnd()).toMatch(/event: everything\ndata: \{\}$/);
  await publish(1);
  expect(text.trimEnd()).toMatch(/event: notices\ndata: \{\}$/);
  line.destroy();
  await over;
});

test('sessions and tokens of one person are bounded: the oldest session ends, one token more is refused', async () => {
  const { id } = await server.caller('approver2');
  const first = await openSession(server.context, id, {});
  for (let count = 0; count < 100; count += 1) {
    server.pass(0.001);
    await openSession(server.context, id, {});
  }
  expect(await readSession(server.context, first.secret)).toBeNull();
  expect(await server.context.models.Session.count({ where: { personId: id } })).toBe(100);
  const agent = await server.as('approver2');
  for (let count = 1; count < 200; count += 1) await secretOf('approver2');
  const refused = await agent.post('/api/v1/tokens').send({ name: 'more' });
  expect([refused.status, (refused.body as contract.Problem).code]).toEqual([409, 'too-many-tokens']);
});
