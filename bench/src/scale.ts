import { performance } from 'node:perf_hooks';
import { performCreateLibrary, performSetMembers } from '@polychron/server';
import { fillLibrary, type Size } from './fillLibrary.ts';
import { heavyDocx } from './heavyDocx.ts';
import { Place } from './place.ts';
import { median, tell } from './tell.ts';

/**
 * Acts in a library of 100,000 documents and 1,000,000 versions, beside the same in one of 200 documents of
 * as many versions each. Run by scripts/bench, which gives it a database of its own.
 */
const large = { documents: Number(process.env['POLYCHRON_BENCH_DOCUMENTS'] ?? 100_000), versions: 10 };
const small = { documents: 200, versions: 10 };
/** Documents of one owner. */
const owned = 20;
const rounds = 9;
const place = await Place.open('scale');
const { context } = place;
const admin = await place.person('admin', true);
await place.person('author');
await place.person('successor');

async function library(code: string, kind: number, size: Omit<Size, 'owners'>): Promise<string> {
  const asker = { context, caller: admin };
  const rulebook = { custody: 'optional' } as const;
  const { id } = await performCreateLibrary(asker, { name: code, code, purpose: '', rulebook });
  await performSetMembers(asker, id, [
    { account: 'author', roles: ['author', 'controller'] },
    { account: 'successor', roles: ['author'] },
  ]);
  const from = performance.now();
  await fillLibrary(place.databaseUrl, id, { ...size, owners: size.documents / owned, kind });
  const seconds = ((performance.now() - from) / 1000).toFixed(0);
  console.log(`${size.documents} documents of ${size.versions} versions filled in ${seconds} s`);
  return id;
}
const libraries = [await library('SMALL', 1, small), await library('LARGE', 2, large)] as const;

const base = await place.serve();

interface Asked {
  as?: string;
  method?: string;
  body?: FormData | object;
}
async function ask<T>(path: string, { as = 'admin', method = 'GET', body }: Asked = {}): Promise<T> {
  const headers = new Headers(place.headersOf(as));
  if (body && !(body instanceof FormData)) headers.set('Content-Type', 'application/json');
  const sent = body instanceof FormData ? body : body && JSON.stringify(body);
  const answer = await fetch(`${base}${path}`, { method, headers, ...(sent ? { body: sent } : {}) });
  const text = await answer.text();
  if (!answer.ok) throw new Error(`${method} ${path} was answered ${answer.status}: ${text}`);
  return JSON.parse(text) as T;
}

/** What is measured: the same for a library by its place, in each round. */
type Act = (which: 0 | 1, round: number) => Promise<unknown>;
const owner = (which: number, round: number): string => `/people/owner${which + 1}-${round + 1}`;
const handOver = { closed: true, handOverTo: 'successor' };
const documents = new Map<number, string[]>();

const acts: Record<string, Act> = {
  'what closing an account would do': (which, round) =>
    ask(owner(which, round), { method: 'PATCH', body: { ...handOver, rehearse: true } }),
  'closing an account, 20 documents handed over': (which, round) =>
    ask(owner(which, round), { method: 'PATCH', body: handOver }),
  'an upload as the next draft': (which, round) => {
    const form = new FormData();
    form.append('basedOn', '3.1');
    form.append('level', 'minor');
    form.append('comment', 'For the bench');
    form.append('confirm', 'other-name,other-type');
    form.append('file', new Blob([heavyDocx(20, `${which} ${round}`)]), 'bench.docx');
    const id = documents.get(which)?.[round] ?? '';
    return ask(`/documents/${id}/versions`, { as: 'author', method: 'POST', body: form });
  },
};

for (const which of [0, 1]) {
  const { items } = await ask<{ items: { id: string }[] }>(
    `/libraries/${libraries[which]}/documents?limit=${rounds + 1}`,
    { as: 'author' },
  );
  documents.set(
    which,
    items.map(({ id }) => id),
  );
}
for (const [name, act] of Object.entries(acts)) {
  const times: [number[], number[]] = [[], []];
  for (let round = 0; round <= rounds; round += 1) {
    for (const which of [0, 1] as const) {
      const from = performance.now();
      await act(which, round);
      // The first round warms up.
      if (round > 0) times[which].push(performance.now() - from);
    }
  }
  const [few, many] = times.map(median) as [number, number];
  console.log(`${name}: ${few.toFixed(1)} ms of ${small.documents} documents, ${many.toFixed(1)} ms of all`);
  tell(name, many / few, 1.5);
}
await place.close();
