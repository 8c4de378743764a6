import { randomBytes } from 'node:crypto';
import type { Document, Library, Version } from '@polychron/contract';
import { heavyDocx } from './heavyDocx.ts';
import { megabytes, pause, Running } from './running.ts';

/**
 * What the server process holds, its threads counted, while for a while everything is asked of it at once:
 * lists, searches, readings, comparisons, heavy and large uploads, saves, rehearsals, event streams. Run
 * by scripts/bench, which gives it a database of its own; the demo is loaded into it.
 */
const seconds = Number(process.env['POLYCHRON_BENCH_SECONDS'] ?? 90);
const running = new Running();
await running.start();

async function signedIn(account: string) {
  const cookie = await running.cookieOf(account);
  const ask = async (path: string, init: RequestInit = {}): Promise<Response> => {
    const sent = await fetch(`${running.base}${path}`, { ...init, headers: { cookie, ...init.headers } });
    statuses.set(sent.status, (statuses.get(sent.status) ?? 0) + 1);
    return sent;
  };
  return ask;
}
const statuses = new Map<number, number>();
const until = Date.now() + seconds * 1000;
const goesOn = (): boolean => Date.now() < until;

const [author, controller, reader] = [
  await signedIn('author'),
  await signedIn('controller'),
  await signedIn('reader'),
];
const libraries = ((await (await controller('/libraries')).json()) as { items: Library[] }).items;
const documents: Document[] = [];
for (const { id } of libraries) {
  const list = (await (await controller(`/libraries/${id}/documents?limit=200`)).json()) as {
    items: Document[];
  };
  documents.push(...list.items);
}
const library = libraries.find(({ code }) => code === 'OP') ?? libraries[0];
const any = <T>(list: readonly T[]): T => list[Math.floor(Math.random() * list.length)] as T;

/** Reads what there is, as one does who looks everywhere. */
async function read(ask: typeof author): Promise<void> {
  while (goesOn()) {
    const { id } = any(documents);
    const versions = (
      (await (await ask(`/documents/${id}/versions?limit=200`)).json()) as { items?: Version[] }
    ).items;
    const [from, to] = [any(versions ?? []), any(versions ?? [])];
    const paths = [
      `/libraries/${any(libraries).id}/documents?q=${any(['rope', 'tower', 'wind', 'e'])}&limit=200`,
      `/documents/${id}/visibility`,
      '/desk',
      ...(from && to
        ? [
            `/documents/${id}/versions/${from.id}/reading`,
            `/documents/${id}/compare?from=${from.id}&to=${to.id}`,
          ]
        : []),
    ];
    for (const path of paths) await (await ask(path)).arrayBuffer();
  }
}

/** Registers files, one after another. */
async function send(
  mark: string,
  make: (at: number) => { bytes: Uint8Array<ArrayBuffer>; name: string },
): Promise<void> {
  for (let at = 0; goesOn(); at += 1) {
    const form = new FormData();
    const { bytes, name } = make(at);
    form.append('fields', JSON.stringify({ title: `${mark} ${at}` }));
    form.append('comment', 'For the bench');
    form.append('level', 'minor');
    form.append('file', new Blob([bytes]), name);
    await (await author(`/libraries/${library?.id}/documents`, { method: 'POST', body: form })).arrayBuffer();
  }
}

async function rehearse(): Promise<void> {
  const headers = { 'Content-Type': 'application/json' };
  for (let at = 0; goesOn(); at += 1) {
    const keep = {
      published: at % 9,
      drafts: { stay: 'untilPublished', newest: null },
      spareYoungerThan: null,
    };
    const body = JSON.stringify({ keep });
    const path = `/libraries/${any(libraries).id}/rulebook/consequences`;
    await (await controller(path, { method: 'POST', body, headers })).arrayBuffer();
  }
}

/** Listens for a moment, leaves, and listens again. */
async function listen(): Promise<void> {
  while (goesOn()) {
    const leave = new AbortController();
    const stream = await reader('/events', { signal: leave.signal });
    await pause(500);
    leave.abort();
    await stream.body?.cancel().catch(() => undefined);
  }
}

const before = running.held('VmRSS');
await Promise.all([
  ...Array.from({ length: 4 }, () => read(controller)),
  ...Array.from({ length: 4 }, () => read(reader)),
  ...Array.from({ length: 3 }, (_, one) =>
    send(`heavy ${one}`, (at) => ({ bytes: heavyDocx(50_000, `${one} ${at}`), name: 'heavy.docx' })),
  ),
  send('large', () => ({ bytes: new Uint8Array(randomBytes(60 << 20)), name: 'large.bin' })),
  rehearse(),
  ...Array.from({ length: 20 }, listen),
]);
const highest = running.held('VmHWM');
await pause(5000);
console.log(
  `server at rest ${megabytes(before)}, at most ${megabytes(highest)}, a few seconds after ${megabytes(running.held('VmRSS'))}`,
);
const answered = [...statuses].sort(([a], [b]) => a - b).map(([status, count]) => `${status} × ${count}`);
console.log(`answered in ${seconds} s: ${answered.join(', ')}`);
await running.stop();
