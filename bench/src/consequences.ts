import { performance } from 'node:perf_hooks';
import pino from 'pino';
import { completeRulebook } from '@polychron/core';
import {
  addPerson,
  closeContext,
  makeContext,
  migrate,
  openConnection,
  performCreateLibrary,
  performSetMembers,
  versionsSql,
  type Context,
} from '@polychron/server';

/**
 * Consequences of a change of rules on a library of 2,000 documents of 100 versions, beside one plain SQL
 * pass that reads the same rows through the same connector. Run by scripts/bench, which gives it a database
 * of its own.
 */
const documents = 2000;
const versionsOf = 100;
const rounds = 5;
const url = process.env['POLYCHRON_DATABASE_URL'];
if (!url) throw new Error('POLYCHRON_DATABASE_URL is not set; run "npm run bench -- consequences".');
const context = makeContext({
  databaseUrl: url,
  clock: () => new Date(),
  log: pino({ level: 'warn' }),
  stagingFolder: '/tmp',
});

const uuid = (kind: number, index: number): string =>
  `00000000-0000-7000-80${String(kind).padStart(2, '0')}-${String(index).padStart(12, '0')}`;
const values = (rows: readonly unknown[][]): string =>
  rows.map((row) => `(${row.map(written).join(',')})`).join(',');
function written(value: unknown): string {
  if (value === null) return 'NULL';
  return typeof value === 'number' ? String(value) : `'${value as string}'`;
}

/** Fills the library with rows as the services would have made them; every tenth version is published. */
async function fill(at: Context, libraryId: string, people: readonly string[]): Promise<void> {
  const { db } = at;
  const hash = '0'.repeat(64);
  await db.query(`INSERT INTO contents (sha256, size) VALUES ('${hash}', 20000)`);
  const moment = (place: number): string =>
    new Date(Date.UTC(2024, 0, 1) + place * 6 * 86_400_000).toISOString().replace('T', ' ').replace('Z', '');
  for (let document = 0; document < documents; document += 1) {
    const id = uuid(1, document);
    const owner = people[document % people.length] ?? '';
    await db.query(
      `INSERT INTO documents (id, library_id, number, owner_id, co_author_ids, created_at) VALUES ${values([[id, libraryId, `BE-${document}`, owner, '[]', moment(0)]])}`,
    );
    const rows = Array.from({ length: versionsOf }, (_, place) => {
      const published = place % 10 === 9;
      const last = place === versionsOf - 1;
      const onceInForce = last ? 'inForce' : 'superseded';
      const standing = published ? onceInForce : null;
      return [
        uuid(2, document * versionsOf + place),
        id,
        place + 1,
        1,
        Math.floor((place + 1) / 10),
        published ? 0 : (place % 10) + 1,
        'stepped',
        published ? 'published' : 'draft',
        standing,
        people[(document + place) % people.length] ?? '',
        moment(place),
        'A change',
        'checkIn',
        hash,
        20_000,
        'text.docx',
        'application/test',
        300,
        '{"title":"A document"}',
        published ? moment(place) : null,
        published && !last ? moment(place + 10) : null,
      ];
    });
    await db.query(
      `INSERT INTO versions (id, document_id, sequence, era, major, minor, numbering, state, standing, author_id, at, comment, origin_kind, sha256, size, file_name, media_type, words, fields, in_force_from, superseded_at) VALUES ${values(rows)}`,
    );
    const head = uuid(2, document * versionsOf + versionsOf - 1);
    await db.query(
      `INSERT INTO heads (document_id, library_id, latest_id, in_force_id, present_era, highest_major, highest_minor, last_sequence) VALUES ${values([[id, libraryId, head, head, 1, 10, 0, versionsOf]])}`,
    );
  }
}

interface Measured {
  seconds: number;
  megabytes: number;
}
/** Time of a run, and the most memory of the whole process while it ran. */
async function measure(run: () => Promise<unknown>): Promise<Measured> {
  let most = process.memoryUsage().rss;
  const watch = setInterval(() => {
    most = Math.max(most, process.memoryUsage().rss);
  }, 20);
  const start = performance.now();
  await run();
  clearInterval(watch);
  return { seconds: (performance.now() - start) / 1000, megabytes: Math.round(most / 1e6) };
}
const median = (of: readonly Measured[]): number =>
  [...of].sort((a, b) => a.seconds - b.seconds)[Math.floor(of.length / 2)]?.seconds ?? 0;

try {
  await migrate(context.db);
  const admin = {
    id: await addPerson(context, { account: 'admin', name: 'Admin', systemAdministrator: true }),
    account: 'admin',
    name: 'Admin',
    systemAdministrator: true,
  };
  const accounts = Array.from({ length: 40 }, (_, index) => `person${index}`);
  const people: string[] = [];
  for (const account of accounts) people.push(await addPerson(context, { account, name: account }));
  const asker = { context, caller: admin };
  const { id } = await performCreateLibrary(asker, {
    name: 'Benchmark',
    code: 'BE',
    purpose: '',
    rulebook: {},
  });
  const roles = ['controller', 'author', 'approver', 'reader'] as const;
  const members = accounts.map((account, index) => ({ account, roles: [roles[index % 4] ?? 'reader'] }));
  await performSetMembers(asker, id, members);
  console.log(`Filling ${documents} documents of ${versionsOf} versions ...`);
  await fill(context, id, people);

  const connection = await openConnection(url);
  let read = 0;
  const plain = async (): Promise<void> => {
    read = (
      await connection.query<unknown[]>({ sql: versionsSql, rowsAsArray: true, bigIntAsNumber: true }, [id])
    ).length;
  };
  const before = completeRulebook({});
  const after = completeRulebook({
    numbering: 'whole',
    sight: { draft: [] },
    readersSeePast: true,
    keep: { published: 3, drafts: { stay: 'withTheirVersion', newest: 2 }, spareYoungerThan: 'P90D' },
  });
  let thinned = 0;
  const rehearse = async (): Promise<void> => {
    const rehearsal = context.rehearsals.start(
      {
        databaseUrl: url,
        libraryId: id,
        before,
        after,
        now: Date.now(),
        wanted: { offset: 0, limit: 200, documents: null, sightOf: null },
      },
      admin.id,
    );
    await rehearsal.over;
    thinned = rehearsal.result?.thinned.versions ?? -1;
  };
  await plain();
  await rehearse();
  const [passes, rehearsals]: [Measured[], Measured[]] = [[], []];
  for (let round = 0; round < rounds; round += 1) {
    passes.push(await measure(plain));
    rehearsals.push(await measure(rehearse));
  }
  console.log(`rows read ${read}, versions that would go ${thinned}`);
  console.log(
    `plain SQL pass ${median(passes).toFixed(2)} s, consequences ${median(rehearsals).toFixed(2)} s: ratio ${(median(rehearsals) / median(passes)).toFixed(2)} (at most 3)`,
  );
  console.log(
    `memory of the whole process at its most: plain pass ${Math.max(...passes.map(({ megabytes }) => megabytes))} MB, consequences ${Math.max(...rehearsals.map(({ megabytes }) => megabytes))} MB`,
  );
  await connection.end();
} finally {
  await closeContext(context);
}
