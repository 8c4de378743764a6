import type * as contract from '@polychron/contract';
import { sweep } from '../jobs/sweeps.ts';
import { latestActIn, noteTime } from '../store/clock.ts';
import { rows } from '../store/database.ts';
import { TestServer } from '../testing/server.ts';

let server: TestServer;
beforeEach(async () => {
  server = await TestServer.start();
});
afterEach(async () => {
  await server.stop();
  expect(server.logged).toEqual([]);
});
const day = 24;
const clock = async (account = 'controller'): Promise<contract.Clock> =>
  (await (await server.as(account)).get('/api/v1/clock').expect(200)).body as contract.Clock;

const contents = async (): Promise<number> => {
  const sql = 'SELECT COUNT(*) AS n FROM contents WHERE purged_at IS NULL';
  return Number((await rows<{ n: number }>(server.context.db, sql, {}))[0]?.n);
};

/** A library with one version on the recovery shelf: how many are on it, and how one is taken back. */
async function withShelf() {
  const library = await server.library({ keep: { published: 0 } });
  const { id } = await server.document(library, 'first', { level: 'major' });
  await server.change(id, 'second', 'major');
  const shelved = async () =>
    ((await (await server.as('controller')).get(`/api/v1/libraries/${library}/shelf`)).body as contract.Shelf)
      .total;
  const recover = async () =>
    (await server.as('controller'))
      .post(`/api/v1/documents/${id}/versions/1.0/recover`)
      .send({ reason: 'Wanted' });
  return { shelved, recover };
}

test('a clock that goes back dates no act before the one before it', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'first');
  const before = server.now;
  server.pass(-100 * day);
  const { at } = await server.change(id, 'second');
  expect(new Date(at).getTime()).toBeGreaterThanOrEqual(before.getTime());
  const entries = await server.context.models.Ledger.findAll({ where: { chain: id }, order: ['sequence'] });
  const times = entries.map((entry) => entry.at.getTime());
  expect(times).toEqual([...times].sort((a, b) => a - b));
  // A server that starts then begins from the latest act the database tells of.
  expect((await latestActIn(server.context))?.getTime()).toBe(times.at(-1));
});

test('four seconds sixty days ahead remove nothing: the shelf is as it was, and its versions recovered', async () => {
  const { shelved, recover } = await withShelf();
  await sweep(server.context);
  expect(await shelved()).toBe(1);
  server.pass(60 * day);
  await noteTime(server.context, server.now);
  await sweep(server.context);
  server.pass(-60 * day);
  await sweep(server.context);
  expect((await clock()).leaptFrom).toBeNull();
  expect(await shelved()).toBe(1);
  expect((await recover()).status).toBe(200);
});

test('a leap stays to be confirmed until a controller does: then what is over goes', async () => {
  const { shelved } = await withShelf();
  await sweep(server.context);
  const before = server.now;
  server.pass(60 * day);
  await sweep(server.context);
  server.pass(1);
  await sweep(server.context);
  expect(await clock()).toMatchObject({ leaptFrom: before.toISOString(), mayConfirm: true });
  expect(await contents()).toBe(2);
  for (const account of ['author', 'reader', 'approver']) {
    expect((await clock(account)).mayConfirm).toBe(false);
    const refused = await (await server.as(account)).post('/api/v1/clock/confirm').send({});
    expect(refused.body).toMatchObject({ status: 403, code: 'role-missing' });
  }
  const confirmed = await (await server.as('controller')).post('/api/v1/clock/confirm').send({}).expect(200);
  expect(confirmed.body).toMatchObject({ leaptFrom: null });
  await sweep(server.context);
  expect(await shelved()).toBe(0);
  expect(await contents()).toBe(1);
});

test('time that passes from look to look is believed, however long it is in all', async () => {
  await server.library();
  for (let hour = 0; hour < 60; hour += 1) {
    server.pass(23);
    expect(await noteTime(server.context, server.now)).toBeNull();
  }
});
