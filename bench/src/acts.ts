import { createHash, randomUUID } from 'node:crypto';
import { performance } from 'node:perf_hooks';
import { openConnection, performCreateLibrary, performSetMembers } from '@polychron/server';
import { paragraphsDocx } from './heavyDocx.ts';
import { Place } from './place.ts';
import { bareDocuments } from './scaleReads.ts';
import { median, tell } from './tell.ts';

/**
 * Everyday acts over HTTP beside the bare statements they need: their reads, their inserts, one commit. Both
 * come in over HTTP and are signed in, the bare side by a request that asks for nothing. Run by
 * scripts/bench, which gives it a database of its own.
 */
const rounds = 40;
/** Documents of the library. */
const documents = 60;
const place = await Place.open('acts');
const { context } = place;
const admin = await place.person('admin', true);
const author = await place.person('author');
const { id: library } = await performCreateLibrary(
  { context, caller: admin },
  { name: 'Bench', code: 'BE', purpose: '', rulebook: {} },
);
await performSetMembers({ context, caller: admin }, library, [
  { account: 'author', roles: ['author', 'controller'] },
]);
const base = await place.serve();
const db = await openConnection(place.databaseUrl);

/** A .docx of about 12 kB, another each time. */
const file = (mark: string): Uint8Array<ArrayBuffer> =>
  paragraphsDocx(
    Array.from(
      { length: 900 },
      (_, at) => `${mark} ${at} ${Math.sin(at * 7 + mark.length).toString(36)} of the rope`,
    ),
  );

async function ask<T>(path: string, method = 'GET', body?: FormData | object): Promise<T> {
  const headers = new Headers(place.headersOf('author'));
  if (body && !(body instanceof FormData)) headers.set('Content-Type', 'application/json');
  const sent = body instanceof FormData ? body : body && JSON.stringify(body);
  const answer = await fetch(`${base}${path}`, { method, headers, ...(sent ? { body: sent } : {}) });
  const text = await answer.text();
  if (!answer.ok) throw new Error(`${method} ${path} was answered ${answer.status}: ${text}`);
  return (text === '' ? null : JSON.parse(text)) as T;
}

function formOf(fields: Record<string, string>, content: Uint8Array<ArrayBuffer>): FormData {
  const form = new FormData();
  for (const [name, value] of Object.entries(fields)) form.append(name, value);
  form.append('file', new Blob([content]), 'bench.docx');
  return form;
}

const ids: string[] = [];
for (let made = 0; made < documents; made += 1) {
  const fields = { fields: JSON.stringify({ title: `Document ${made}` }), comment: 'First', level: 'minor' };
  const { id } = await ask<{ id: string }>(
    `/libraries/${library}/documents`,
    'POST',
    formOf(fields, file(`first ${made}`)),
  );
  ids.push(id);
}
console.log(`a file of ${file('x').length} bytes`);

async function checkOutAndIn(id: string, mark: string): Promise<void> {
  await ask(`/documents/${id}/checkout`, 'POST', {});
  await ask(`/documents/${id}/checkin`, 'POST', formOf({ comment: mark, level: 'minor' }, file(mark)));
}

const hex = (bytes: Uint8Array | string): string => createHash('sha256').update(bytes).digest('hex');

/** What a document's state is decided on. */
async function bareState(id: string): Promise<void> {
  const sql = `SELECT d.*, h.*, l.*, c.* FROM heads h JOIN documents d ON d.id = h.document_id
    JOIN versions l ON l.id = h.latest_id LEFT JOIN checkouts c ON c.document_id = d.id WHERE d.id = ? FOR UPDATE`;
  await db.query({ sql, rowsAsArray: true }, [id]);
  await db.query('SELECT * FROM saves WHERE document_id = ?', [id]);
  await db.query('SELECT * FROM approval_runs WHERE open_document_id = ?', [id]);
  await db.query('SELECT * FROM desk_files WHERE document_id = ?', [id]);
  await db.query("SELECT * FROM versions WHERE document_id = ? AND standing = 'scheduled'", [id]);
  await db.query('SELECT * FROM held_roles WHERE library_id = ? AND person_id = ?', [library, author.id]);
  await db.query(
    `SELECT r.rulebook FROM libraries l JOIN rulebook_revisions r ON r.library_id = l.id
     AND r.revision = l.rulebook_revision WHERE l.id = ? LOCK IN SHARE MODE`,
    [library],
  );
}

async function bareLedger(id: string, act: string): Promise<void> {
  const [last] = await db.query<{ sequence: number; hash: string }[]>(
    'SELECT sequence, hash FROM ledger WHERE chain = ? ORDER BY sequence DESC LIMIT 1 FOR UPDATE',
    [id],
  );
  await db.query(
    `INSERT INTO ledger (chain, sequence, library_id, document_id, person_id, at, act, facts, hash)
     VALUES (?, ?, ?, ?, ?, NOW(3), ?, '{}', ?)`,
    [id, (last?.sequence ?? 0) + 1, library, id, author.id, act, hex(`${last?.hash} ${act}`)],
  );
}

async function bareContent(content: Uint8Array): Promise<string> {
  const hash = hex(content);
  await db.query('INSERT INTO contents (sha256, size) VALUES (?, ?)', [hash, content.length]);
  await db.query('INSERT INTO chunks (sha256, bytes) VALUES (?, ?)', [hash, Buffer.from(content)]);
  await db.query('INSERT INTO content_chunks (content, position, chunk) VALUES (?, 0, ?)', [hash, hash]);
  return hash;
}

/** The same two acts by bare statements, in two transactions. */
async function bareOutAndIn(id: string, mark: string): Promise<void> {
  await db.beginTransaction();
  await bareState(id);
  await db.query(
    `INSERT INTO checkouts (document_id, holder_id, since, base_id, door)
     SELECT document_id, ?, NOW(3), latest_id, 'web' FROM heads WHERE document_id = ?`,
    [author.id, id],
  );
  await db.query(
    `INSERT INTO custody_periods (document_id, holder_id, since, base_id)
     SELECT document_id, ?, NOW(3), latest_id FROM heads WHERE document_id = ?`,
    [author.id, id],
  );
  await bareLedger(id, 'checkOut');
  await db.commit();

  await db.beginTransaction();
  await bareState(id);
  const content = file(mark);
  const hash = await bareContent(content);
  const version = randomUUID();
  await db.query(
    `INSERT INTO versions (id, document_id, sequence, era, major, minor, numbering, state, author_id, at, comment,
       origin_kind, sha256, size, file_name, media_type, words, fields, found_by)
     SELECT ?, v.document_id, v.sequence + 1, 1, 0, v.sequence + 1, 'stepped', 'draft', ?, NOW(3), ?, 'checkIn', ?, ?,
       v.file_name, v.media_type, 900, v.fields, v.found_by
     FROM heads h JOIN versions v ON v.id = h.latest_id WHERE h.document_id = ?`,
    [version, author.id, mark, hash, content.length, id],
  );
  await db.query(
    `UPDATE heads SET latest_id = ?, last_sequence = last_sequence + 1, highest_minor = highest_minor + 1,
       bytes_kept = bytes_kept + ? WHERE document_id = ?`,
    [version, content.length, id],
  );
  await db.query('UPDATE library_usage SET bytes = bytes + ? WHERE library_id = ?', [
    content.length,
    library,
  ]);
  await db.query('UPDATE kind_counts SET count = count + 1 WHERE document_id = ? AND kind = 16', [id]);
  await db.query(
    `UPDATE newest_versions SET version_id = ?, sequence = sequence + 1, changed = NOW(3)
     WHERE document_id = ? AND kind = 16`,
    [version, id],
  );
  await db.query('INSERT IGNORE INTO document_words (library_id, word, document_id) VALUES (?, ?, ?)', [
    library,
    mark,
    id,
  ]);
  await db.query('DELETE FROM checkouts WHERE document_id = ?', [id]);
  await db.query(
    `UPDATE custody_periods SET ended_at = NOW(3), how = 'checkIn', ended_by = ?, version_id = ?
     WHERE document_id = ? AND ended_at IS NULL`,
    [author.id, version, id],
  );
  await bareLedger(id, 'checkIn');
  await db.commit();
}

/** Measures in turns; the first round warms up. */
async function beside(
  name: string,
  whole: (round: number) => Promise<unknown>,
  bare: (round: number) => Promise<unknown>,
): Promise<void> {
  const times: [number[], number[]] = [[], []];
  for (let round = 0; round <= rounds; round += 1) {
    for (const [which, run] of [whole, bare].entries()) {
      const from = performance.now();
      await run(round);
      if (round > 0) times[which]?.push(performance.now() - from);
    }
  }
  const [taken, plain] = times.map(median) as [number, number];
  console.log(`${name}: ${taken.toFixed(1)} ms, bare ${plain.toFixed(1)} ms`);
  tell(name, taken / plain, 4);
}

const nothing = (): Promise<unknown> => ask('/session');
const [acted = '', bared = ''] = ids;
await beside(
  'a check-out with its check-in of 12 kB',
  (round) => checkOutAndIn(acted, `acted ${round}`),
  async (round) => {
    await nothing();
    await nothing();
    await bareOutAndIn(bared, `bared ${round}`);
  },
);
const [, , read = ''] = ids;
await beside(
  'reading one document',
  () => ask(`/documents/${read}`),
  async () => {
    await nothing();
    await bareDocuments(db, [read]);
    await db.query('SELECT * FROM held_roles WHERE library_id = ?', [library]);
  },
);
await beside(
  'a page of the Register',
  () => ask(`/libraries/${library}/documents?limit=50`),
  async () => {
    await nothing();
    const rows = await db.query<{ id: string }[]>(
      'SELECT id FROM documents WHERE library_id = ? ORDER BY number LIMIT 50',
      [library],
    );
    await db.query('SELECT COUNT(*) AS documents FROM documents WHERE library_id = ?', [library]);
    await bareDocuments(
      db,
      rows.map(({ id }) => id),
    );
  },
);

/** Pairs of acts a second, eight at once on documents of their own. */
const atOnce = ids.slice(3, 11);
const from = performance.now();
for (let round = 0; round < 5; round += 1) {
  await Promise.all(atOnce.map((id) => checkOutAndIn(id, `at once ${round} ${id}`)));
}
const pairs = (atOnce.length * 5) / ((performance.now() - from) / 1000);
console.log(`${pairs.toFixed(1)} check-outs with their check-ins a second, ${atOnce.length} at once`);
await db.end();
await place.close();
