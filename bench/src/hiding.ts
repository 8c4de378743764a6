import { randomUUID } from 'node:crypto';
import { performance } from 'node:perf_hooks';
import { performCreateLibrary, performSetMembers } from '@polychron/server';
import { heavyDocx } from './heavyDocx.ts';
import { Place } from './place.ts';
import { median, tell } from './tell.ts';

/**
 * How long a reader waits to be told that a document is not there: of one that is hidden from them, beside
 * one that does not exist, by reading and writing routes in turn. Run by scripts/bench, which gives it a
 * database of its own.
 */
const rounds = 80;
const drafts = 60;
const place = await Place.open('hiding');
const { context } = place;
const admin = await place.person('admin', true);
await place.person('author');
await place.person('reader');
const asker = { context, caller: admin };
const library = await performCreateLibrary(asker, {
  name: 'Bench',
  code: 'BE',
  purpose: '',
  rulebook: { custody: 'optional' },
});
await performSetMembers(asker, library.id, [
  { account: 'author', roles: ['author', 'controller'] },
  { account: 'reader', roles: ['reader'] },
]);
/** A document of many drafts, of which a reader sees nothing. */
async function fill(base: string): Promise<string> {
  const headers = place.headersOf('author');
  const form = (words: string, more: Record<string, string>): FormData => {
    const made = new FormData();
    for (const [name, value] of Object.entries({ level: 'minor', comment: words, ...more }))
      made.append(name, value);
    made.append('file', new Blob([heavyDocx(20, words)]), 'bench.docx');
    return made;
  };
  const post = async (path: string, body: FormData): Promise<{ id: string }> => {
    const answer = await fetch(`${base}${path}`, { method: 'POST', headers, body });
    if (answer.status !== 201) throw new Error(`${path} was answered ${answer.status}`);
    return (await answer.json()) as { id: string };
  };
  const fields = JSON.stringify({ title: 'Hidden' });
  const { id } = await post(`/libraries/${library.id}/documents`, form('first', { fields }));
  for (let at = 1; at < drafts; at += 1)
    await post(`/documents/${id}/versions`, form(`draft ${at}`, { basedOn: `0.${at}` }));
  return id;
}

const routes = [
  ['GET', ''],
  ['GET', '/versions'],
  ['GET', '/versions/0.9/content'],
  ['GET', '/compare?from=0.1&to=0.2'],
  ['POST', '/checkout'],
  ['POST', '/submit'],
] as const;

async function time(base: string, id: string, [method, path]: (typeof routes)[number]): Promise<number> {
  const body = method === 'POST' ? JSON.stringify(path === '/submit' ? { version: '0.9' } : {}) : null;
  const headers = { ...place.headersOf('reader'), 'Content-Type': 'application/json' };
  const from = performance.now();
  const answer = await fetch(`${base}/documents/${id}${path}`, { method, headers, body });
  await answer.arrayBuffer();
  if (answer.status !== 404) throw new Error(`${method} ${path} was answered ${answer.status}`);
  return performance.now() - from;
}

/** Medians of what a hidden and a missing document take, asked in turn. */
async function pair(base: string, id: string, route: (typeof routes)[number]): Promise<[number, number]> {
  const hidden: number[] = [];
  const missing: number[] = [];
  for (let round = 0; round < rounds; round += 1) {
    hidden.push(await time(base, id, route));
    missing.push(await time(base, randomUUID(), route));
  }
  return [median(hidden), median(missing)];
}

const plain = await place.serve({ evenly: false });
const even = await place.serve();
const id = await fill(plain);
for (const route of routes) {
  const [hidden, missing] = await pair(plain, id, route);
  console.log(
    `${route.join(' ')} without even times: hidden ${hidden.toFixed(1)} ms, missing ${missing.toFixed(1)} ms, ratio ${(hidden / missing).toFixed(2)}`,
  );
}
for (const route of routes) {
  const [hidden, missing] = await pair(even, id, route);
  tell(`${route.join(' ')} hidden against missing`, Math.max(hidden / missing, missing / hidden), 1.03);
}
await place.close();
