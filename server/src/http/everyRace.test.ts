import { type Route, routes } from '@polychron/contract';
import type { Response } from 'supertest';
import { documentRaces } from '../testing/documentRaces.ts';
import { ask, type Case, unique } from '../testing/races.ts';
import { siteRaces } from '../testing/siteRaces.ts';
import { testServer } from '../testing/started.ts';

/** How many ask at once. */
const many = process.env['POLYCHRON_RACE_ROUNDS'] === undefined ? 4 : 20;

const server = testServer();
const written = Object.entries(routes as Record<string, Route>).filter(([, { method }]) => method !== 'get');
beforeAll(async () => {
  await (await server.as('admin')).put('/api/v1/clock/confirm');
});

const cases: Partial<Record<string, Case>> = { ...documentRaces(server), ...siteRaces(server) };

/** What many are told: each status and code, and how often. */
const tellOf = (answers: readonly Response[]): string[] =>
  answers
    .map(({ status, body }) => (status < 400 ? `${status}` : `${status} ${(body as { code: string }).code}`))
    .sort();

test('there is a case for every route that writes', () => {
  expect(Object.keys(cases).sort()).toEqual(written.map(([name]) => name).sort());
});

/** Cases in which nothing comes of it, the first time either. */
const refusedAll = ['takeBackLock', 'keepForLater', 'cancelJob'];

test.each(Object.keys(cases))(
  '%s asked for by many at once comes to what as many, one after another, come to',
  async (name) => {
    const route = (routes as Record<string, Route>)[name] as Route;
    const make = cases[name] as Case;
    const [one, other] = [await make(unique()), await make(unique())];
    const inTurn: Response[] = [];
    for (let time = 0; time < many; time += 1) inTurn.push(await ask(server, route, one));
    const atOnce = await Promise.all(Array.from({ length: many }, () => ask(server, route, other)));
    expect(tellOf(atOnce)).toEqual(tellOf(inTurn));
    if (!refusedAll.includes(name)) expect(inTurn[0]?.status).toBeLessThan(300);
    expect(await other.stands()).toEqual(await one.stands());
  },
);
