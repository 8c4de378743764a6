import type * as contract from '@polychron/contract';
import { dateWords } from '@polychron/core';
import { tellOfReviews } from '../acts/tellOfReviews.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();

const post = async (account: string, id: string, body: object) =>
  (await server.as(account)).post(`/api/v1/documents/${id}/review`).send(body);
const read = async (id: string, account = 'author', query = ''): Promise<contract.Document> =>
  (await (await server.as(account)).get(`/api/v1/documents/${id}${query}`)).body as contract.Document;
const desk = async (account: string): Promise<contract.Desk> =>
  (await (await server.as(account)).get('/api/v1/desk')).body as contract.Desk;
const day = (days: number): string =>
  new Date(server.now.getTime() + days * 86_400_000).toISOString().slice(0, 10);

/** A document in force that is to be reviewed in so many days. */
async function reviewedIn(days: number): Promise<{ id: string; number: string }> {
  const library = await server.library();
  const { id, number } = await server.document(library, 'first words', { level: 'major' });
  await (
    await server.as('author')
  )
    .patch(`/api/v1/documents/${id}`)
    .send({ fields: { reviewBy: day(days) }, level: 'major', comment: 'To be reviewed' })
    .expect(200);
  return { id, number };
}

test('a review date nears: the owner is told once, finds it on the Desk, confirms, and the next date holds', async () => {
  const { id, number } = await reviewedIn(40);
  expect((await read(id)).reviewBy).toBe(day(40));
  expect((await desk('author')).reviews).toEqual([]);
  expect(await tellOfReviews(server.context)).toBe(0);
  server.pass(15 * 24);
  expect(await tellOfReviews(server.context)).toBe(1);
  expect(await tellOfReviews(server.context)).toBe(0);
  const { reviews, notices } = await desk('author');
  expect(reviews).toMatchObject([{ document: { id, number }, reviewBy: day(25) }]);
  expect(notices[0]?.text).toBe(`${number} is to be reviewed by ${dateWords(day(25))}.`);
  const before = server.now;
  server.pass(1);
  const confirmed = await post('author', id, {
    outcome: 'confirmed',
    comment: 'Walked it',
    nextBy: day(365),
  });
  expect(confirmed.status).toBe(200);
  expect(confirmed.body).toMatchObject({
    reviewBy: day(365),
    versions: 2,
    lastReview: { by: { account: 'author' }, outcome: 'confirmed', comment: 'Walked it', nextBy: day(365) },
  });
  expect((await desk('author')).reviews).toEqual([]);
  // Readers are told who confirmed it, not with what words; then it was as it was.
  expect((await read(id, 'reader')).lastReview).toMatchObject({ outcome: 'confirmed', comment: null });
  expect(await read(id, 'author', `?asOf=${before.toISOString()}`)).toMatchObject({
    reviewBy: new Date(before.getTime() + 25 * 86_400_000).toISOString().slice(0, 10),
    lastReview: null,
  });
  // That a change is wanted leaves the date as it was confirmed, then as now.
  server.pass(1);
  await post('author', id, { outcome: 'opened', comment: 'Tower 4 is new' });
  for (const query of ['', `?asOf=${server.now.toISOString()}`]) {
    expect(await read(id, 'author', query)).toMatchObject({
      reviewBy: day(365),
      lastReview: { outcome: 'opened' },
    });
  }
  // Another version has a date of its own.
  await server.change(id, 'other words', 'major');
  expect(await read(id)).toMatchObject({ lastReview: null });
  expect((await read(id)).reviewBy).not.toBe(day(365));
});

test('one past its date waits for the controller too; opened, a draft is made and the owner is told', async () => {
  const { id, number } = await reviewedIn(2);
  expect((await desk('controller')).reviews.map(({ document }) => document.id)).not.toContain(id);
  server.pass(4 * 24);
  expect((await desk('controller')).reviews.map(({ document }) => document.id)).toContain(id);
  const opened = await post('controller', id, { outcome: 'opened', comment: 'Tower 4 is new' });
  expect(opened.body).toMatchObject({ latest: { label: '2.1', state: 'draft', comment: 'Tower 4 is new' } });
  expect((await desk('author')).notices.map(({ text }) => text)).toContain(
    `C. controller reviewed ${number} 2.0: it is to be changed: “Tower 4 is new”.`,
  );
  // That a change is prepared is nothing for readers.
  expect(await read(id, 'reader')).toMatchObject({ lastReview: null, inForce: { label: '2.0' } });
});

test('refused: who is not in charge, a day that is past, no words for a change, nothing in force', async () => {
  const { id } = await reviewedIn(10);
  const refusal = async (account: string, body: object, of = id): Promise<string> =>
    ((await post(account, of, body)).body as { code: string }).code;
  expect(await refusal('author2', { outcome: 'confirmed' })).toBe('not-in-charge');
  expect(await refusal('reader', { outcome: 'confirmed' })).toBe('role-missing');
  expect(await refusal('author', { outcome: 'confirmed', nextBy: day(-1) })).toBe('moment-past');
  expect(await refusal('author', { outcome: 'opened' })).toBe('comment-missing');
  const draft = await server.document(await server.library(), 'a draft');
  expect(await refusal('author', { outcome: 'confirmed' }, draft.id)).toBe('nothing-to-review');
});
