import { performance } from 'node:perf_hooks';
import fc from 'fast-check';
import request from 'supertest';
import { v7 as newId } from 'uuid';
import { makeToken } from '../access/sessions.ts';
import { testServer } from '../testing/started.ts';
import { createApp } from './app.ts';
import { untilNextStep } from './evenly.ts';

const server = testServer();

test('waits end at whole multiples of the step, after the time that has gone', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 100_000 }), fc.integer({ min: 1, max: 500 }), (elapsed, step) => {
      const until = untilNextStep(elapsed, step);
      expect([(elapsed + until) % step, until > 0, until <= step]).toEqual([0, true, true]);
    }),
  );
  expect(() => untilNextStep(3, 0)).toThrow(RangeError);
});

test('what is hidden and what does not exist are answered after the same wait, by reading and writing', async () => {
  const library = await server.library();
  const { id: hidden } = await server.document(library, 'hushdraft only');
  const { secret } = await makeToken(await server.asker('reader'), { name: 'even' });
  const agent = request.agent(createApp(server.context)).set('Authorization', `Bearer ${secret}`);
  for (const id of [hidden, newId()]) {
    for (const path of [`/documents/${id}`, `/documents/${id}/versions/1.1/content`]) {
      const from = performance.now();
      await agent.get(`/api/v1${path}`).expect(404);
      // A timer may be a millisecond early; without the wait these take a few.
      expect(performance.now() - from).toBeGreaterThan(48);
    }
    const from = performance.now();
    await agent.post(`/api/v1/documents/${id}/checkout`).send({}).expect(404);
    expect(performance.now() - from).toBeGreaterThan(48);
  }
});
