import { performance } from 'node:perf_hooks';
import { performCreateLibrary, performSetMembers } from '@polychron/server';
import { heavyDocx as docx } from './heavyDocx.ts';
import { Place } from './place.ts';

/**
 * What one person waits for a small request while another sends files that take long to read, beside what
 * they wait while nobody does. Run by scripts/bench, which gives it a database of its own.
 */
const heavyAtOnce = 12;
const asked = 40;
const place = await Place.open('turns');
const { context } = place;
const admin = await place.person('admin', true);
await place.person('heavy');
await place.person('small');
const asker = { context, caller: admin };
const { id: library } = await performCreateLibrary(asker, {
  name: 'Bench',
  code: 'BE',
  purpose: '',
  rulebook: {},
});
await performSetMembers(
  asker,
  library,
  ['heavy', 'small'].map((account) => ({ account, roles: ['author', 'controller'] as const })),
);
const base = await place.serve();

async function create(who: 'heavy' | 'small', file: Uint8Array<ArrayBuffer>, title: string): Promise<number> {
  const form = new FormData();
  form.append('fields', JSON.stringify({ title }));
  form.append('level', 'minor');
  form.append('comment', 'For the bench');
  form.append('file', new Blob([file]), 'bench.docx');
  const headers = place.headersOf(who);
  const answer = await fetch(`${base}/libraries/${library}/documents`, {
    method: 'POST',
    headers,
    body: form,
  });
  await answer.arrayBuffer();
  return answer.status;
}

/** Times of small requests, one after another: a small document registered, which is read in a thread. */
async function smallTimes(mark: string): Promise<number[]> {
  const times: number[] = [];
  for (let at = 0; at < asked; at += 1) {
    const file = docx(20, `${mark} ${at}`);
    const from = performance.now();
    const status = await create('small', file, `${mark} ${at}`);
    if (status !== 201) throw new Error(`a small request was answered ${status}`);
    times.push(performance.now() - from);
  }
  return times.sort((a, b) => a - b);
}
const told = (times: readonly number[]): string =>
  `median ${(times[Math.floor(times.length / 2)] ?? 0).toFixed(0)} ms, slowest ${(times.at(-1) ?? 0).toFixed(0)} ms`;

await smallTimes('warm');
const alone = await smallTimes('alone');
let over = false;
const statuses = new Map<number, number>();
const sending = Array.from({ length: heavyAtOnce }, async (_, at) => {
  for (let round = 0; !over; round += 1) {
    const status = await create('heavy', docx(50_000, `heavy ${at} ${round}`), `heavy ${at} ${round}`);
    statuses.set(status, (statuses.get(status) ?? 0) + 1);
  }
});
await new Promise((resolve) => {
  setTimeout(resolve, 3000);
});
const beside = await smallTimes('beside');
over = true;
await Promise.all(sending);
console.log(`alone: ${told(alone)}`);
console.log(`beside ${heavyAtOnce} uploads of 50,000 paragraphs at once by another: ${told(beside)}`);
console.log(
  `slowest beside, against slowest alone: ratio ${((beside.at(-1) ?? 0) / (alone.at(-1) ?? 1)).toFixed(1)}`,
);
console.log(
  `heavy ones answered: ${[...statuses].map(([status, count]) => `${status} × ${count}`).join(', ')}`,
);
console.log(`memory of the process: ${Math.round(process.memoryUsage.rss() / 1e6)} MB`);
await place.close();
