import { performance } from 'node:perf_hooks';
import {
  openConnection,
  performCreateLibrary,
  performSetMembers,
  rebuildHeads,
  versionsSql,
} from '@polychron/server';
import { fillLibrary, type Size } from './fillLibrary.ts';
import { heavyDocx } from './heavyDocx.ts';
import { Place } from './place.ts';
import { bareDocuments, barePage, registerQuestions, type Mostly } from './scaleReads.ts';
import { median, tell } from './tell.ts';

/**
 * A library of 100,000 documents and 1,000,000 versions. What is read of it over HTTP, beside bare SQL over
 * indexes that reads what the answer shows; consequences of rules beside one pass over its versions; acts
 * beside the same in a library of 200 documents. Run by scripts/bench, which gives it a database of its own.
 */
const large = { documents: Number(process.env['POLYCHRON_BENCH_DOCUMENTS'] ?? 100_000), versions: 10 };
const small = { documents: 200, versions: 10 };
/** Documents of one owner in the small library, and of each of a hundred in the large one. */
const owned = 20;
const ownersOf = ({ documents }: typeof small): number =>
  documents === small.documents ? documents / owned : 100;
const rounds = 9;
/** Libraries beside these two, and groups. */
const others = 300;
/** Versions of the one document with a long history. */
const longHistory = 10_000;
const place = await Place.open('scale');
const { context } = place;
const admin = await place.person('admin', true);
await place.person('author');
await place.person('successor');
await place.person('reader');

async function library(code: string, kind: number, size: Omit<Size, 'owners'>): Promise<string> {
  const asker = { context, caller: admin };
  const numberPatterns = [{ type: null, pattern: 'SC-######' }];
  const rulebook = { custody: 'optional', numberPatterns } as const;
  const { id } = await performCreateLibrary(asker, { name: code, code, purpose: '', rulebook });
  await performSetMembers(asker, id, [
    { account: 'author', roles: ['author', 'controller'] },
    { account: 'successor', roles: ['author', 'approver'] },
    { account: 'reader', roles: ['reader'] },
  ]);
  const from = performance.now();
  await fillLibrary(place.databaseUrl, id, { ...size, owners: ownersOf(size), kind });
  const seconds = ((performance.now() - from) / 1000).toFixed(0);
  console.log(`${size.documents} documents of ${size.versions} versions filled in ${seconds} s`);
  return id;
}
const libraries = [await library('SMALL', 1, small), await library('LARGE', 2, large)] as const;
const [, largeId] = libraries;
const db = await openConnection(place.databaseUrl);
/** A document of the large library, with a long history, on none of the pages that are read. */
const longId = `00000000-0000-7000-8102-${String(large.documents - 1).padStart(12, '0')}`;
await db.query(
  `INSERT INTO versions (id, document_id, sequence, era, major, minor, numbering, state, standing, author_id, at, comment,
     origin_kind, sha256, size, file_name, media_type, words, fields, in_force_from, superseded_at)
   SELECT CONCAT('00000000-0000-7000-8502-', LPAD(s.seq, 12, '0')), document_id, s.seq, 1, 1000, s.seq, numbering, 'draft', NULL,
     author_id, at + INTERVAL s.seq SECOND, 'Another save', 'checkIn', sha256, size, file_name, media_type, words, fields, NULL, NULL
   FROM versions v JOIN seq_${large.versions + 1}_to_${longHistory} s WHERE v.document_id = ? AND v.sequence = ${large.versions}`,
  [longId],
);
await db.query(
  `INSERT INTO version_periods (library_id, document_id, version_id, from_at, state)
   SELECT ?, document_id, id, at, state FROM versions WHERE document_id = ? AND sequence > ${large.versions}`,
  [largeId, longId],
);
await db.query(
  `UPDATE heads SET latest_id = (SELECT id FROM versions WHERE document_id = ? AND sequence = ${longHistory}),
     highest_major = 1000, highest_minor = ${longHistory}, last_sequence = ${longHistory} WHERE document_id = ?`,
  [longId, longId],
);
const rebuilding = performance.now();
await rebuildHeads(context.db);
console.log(`heads made in ${((performance.now() - rebuilding) / 1000).toFixed(0)} s`);
await db.query('ANALYZE TABLE versions, newest_versions, kind_counts, document_words, document_subjects');
await place.signIn('owner2-1');

const base = await place.serve();

interface Asked {
  as?: string;
  method?: string;
  body?: FormData | object;
}
async function send(path: string, { as = 'admin', method = 'GET', body }: Asked = {}): Promise<Response> {
  // As it is: what bare SQL answers is not compressed either.
  const headers = new Headers({ ...place.headersOf(as), 'Accept-Encoding': 'identity' });
  if (body && !(body instanceof FormData)) headers.set('Content-Type', 'application/json');
  const sent = body instanceof FormData ? body : body && JSON.stringify(body);
  const answer = await fetch(`${base}${path}`, { method, headers, ...(sent ? { body: sent } : {}) });
  if (!answer.ok) throw new Error(`${method} ${path} was answered ${answer.status}: ${await answer.text()}`);
  return answer;
}
const ask = async <T>(path: string, asked?: Asked): Promise<T> =>
  (await (await send(path, asked)).json()) as T;

/** What is measured: the same for a library by its place, in each round. */
type Act = (which: 0 | 1, round: number) => Promise<unknown>;
const owner = (which: number, round: number): string => `/people/owner${which + 1}-${round + 1}`;
const handOver = { closed: true, handOverTo: 'successor' };
const documents = new Map<number, string[]>();
/** The document of a library that a round is about. */
const pathOf = (which: number, round: number): string => `/documents/${documents.get(which)?.[round] ?? ''}`;
/** What is let off less than closing an account. */
const limits: Record<string, number> = { 'an upload as the next draft': 1.2 };

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
    return ask(`${pathOf(which, round)}/versions`, { as: 'author', method: 'POST', body: form });
  },
  'asking two to read a document': (which, round) =>
    ask(`${pathOf(which, round)}/distribution`, {
      as: 'author',
      method: 'POST',
      body: { people: ['reader', 'successor'], groups: [] },
    }),
  'who is to read it': (which, round) => ask(`${pathOf(which, round)}/distribution`, { as: 'author' }),
  'confirming it was read': (which, round) =>
    ask(`${pathOf(which, round)}/versions/3.0/read`, {
      as: 'reader',
      method: 'POST',
      body: {},
    }),
  'reviewing what is in force': (which, round) =>
    ask(`${pathOf(which, round)}/review`, {
      as: 'author',
      method: 'POST',
      body: { outcome: 'confirmed', comment: 'Holds', nextBy: '2099-01-01' },
    }),
  'voiding a document, and letting it stand again': async (which, round) => {
    const body = { reason: 'For the bench' };
    await ask(`${pathOf(which, round)}/void`, { as: 'author', method: 'POST', body });
    return ask(`${pathOf(which, round)}/unvoid`, { as: 'author', method: 'POST', body });
  },
  'voided documents': (which) =>
    ask(`/libraries/${libraries[which]}/documents?voided=true&limit=50`, { as: 'author' }),
  'whose a file is, by its name': (which, round) =>
    ask(`/libraries/${libraries[which]}/file-names?name=document%20${round + 1}.docx`, { as: 'author' }),
  'whose a file is, by a number': (which, round) =>
    ask(`/libraries/${libraries[which]}/file-names?name=SC-00000${round + 1}%20as%20it%20came.docx`, {
      as: 'author',
    }),
  'the shelf of one revision': (which) =>
    ask(`/libraries/${libraries[which]}/shelf?revision=1&limit=50`, { as: 'author' }),
  'keeping a document to two': (which, round) =>
    ask(`${pathOf(which, round)}/limits`, {
      as: 'author',
      method: 'PUT',
      body: { limit: { people: ['reader', 'successor'], groups: [] }, reason: 'For the bench' },
    }),
};

/**
 * Measures an answer beside bare SQL, in turns. The bare side too comes in over HTTP and is signed in, by a
 * request that asks for nothing else. Told is the median of what each turn came to by itself: a machine that
 * is slow for a while is slow on both sides of a turn.
 */
async function beside(
  name: string,
  { as, path }: { as: string; path: string },
  bare: () => Promise<unknown>,
  limit = 2,
): Promise<void> {
  // Its bytes: reading them into objects is the client's.
  const answer = async (): Promise<unknown> => (await send(path, { as })).arrayBuffer();
  const times: [number[], number[]] = [[], []];
  for (let round = 0; round <= readRounds; round += 1) {
    for (const [which, run] of [answer, () => ask('/session', { as }).then(bare)].entries()) {
      const from = performance.now();
      await run();
      // The first round warms up.
      if (round > 0) times[which]?.push(performance.now() - from);
    }
  }
  const [whole, plain] = times;
  console.log(`${name}: ${median(whole).toFixed(1)} ms, bare ${median(plain).toFixed(1)} ms`);
  const ratios = whole.map((time, turn) => time / (plain[turn] ?? NaN));
  tell(name, median(ratios), limit);
}
const readRounds = 15;

/** Who sees drafts: authors, or the team alone. */
const sights = { 'drafts for authors': ['author', 'approver'], 'drafts for the team': [] };
/**
 * Kinds of the versions a viewer mostly sees last, as store/sight.ts has them: drafts, or what is in force
 * below a draft.
 */
const drafts: Mostly = { kind: 16, later: 0 };
const inForce: Mostly = { kind: 1, later: 16 };
const viewers: Record<string, (sight: string) => Mostly> = {
  author: () => drafts,
  reader: () => inForce,
  'owner2-1': (sight) => (sight === 'drafts for the team' ? inForce : drafts),
};
async function setSight(named: readonly string[]): Promise<void> {
  await db.query(
    `UPDATE rulebook_revisions SET rulebook = JSON_SET(rulebook, '$.sight.draft', JSON_EXTRACT(?, '$'),
       '$.sight.rejected', JSON_EXTRACT(?, '$'), '$.sight.inApproval', JSON_EXTRACT(?, '$')) WHERE library_id = ?`,
    [...[named, named, named].map((roles) => JSON.stringify(roles)), largeId],
  );
}
for (const [sight, named] of Object.entries(sights)) {
  await setSight(named);
  for (const [as, mostly] of Object.entries(viewers)) {
    const questions = registerQuestions(largeId, mostly(sight));
    for (const [name, { query, bare }] of Object.entries(questions)) {
      await beside(
        `${name}, ${as}, ${sight}`,
        { as, path: `/libraries/${largeId}/documents?limit=50&${query}` },
        () => barePage(db, bare),
      );
    }
  }
}

for (const as of ['author', 'reader'])
  await beside(
    `first folders of subjects, ${as}`,
    { as, path: `/libraries/${largeId}/subjects` },
    async () => {
      const names = await db.query<{ name: string }[]>(
        'SELECT DISTINCT subject AS name FROM document_subjects WHERE library_id = ? AND place = 0',
        [largeId],
      );
      await db.query(
        `SELECT ${names.map(() => '(SELECT document_id FROM document_subjects WHERE library_id = ? AND place = 0 AND subject = ? LIMIT 1)').join()}`,
        names.flatMap(({ name }) => [largeId, name]),
      );
    },
  );
// Libraries that nobody measured here is in, and groups of two.
for (let other = 0; other < others; other += 1)
  await performCreateLibrary(
    { context, caller: admin },
    { name: `Other ${other}`, code: `OTHER${other}`, purpose: '', rulebook: {} },
  );
await db.query(
  `INSERT INTO person_groups (id, name, created_at)
   SELECT CONCAT('00000000-0000-7000-8900-', LPAD(seq, 12, '0')), CONCAT('Crew ', seq), NOW(3) FROM seq_1_to_${others}`,
);
await db.query(
  `INSERT INTO group_people (group_id, person_id)
   SELECT g.id, p.id FROM person_groups g JOIN people p ON p.account IN ('author', 'reader')`,
);
await beside(`libraries of a member of two among ${others}`, { as: 'author', path: '/libraries' }, () =>
  db.query(`SELECT l.*, r.rulebook, (SELECT COUNT(*) FROM documents d WHERE d.library_id = l.id) AS documents
      FROM libraries l JOIN rulebook_revisions r ON r.library_id = l.id AND r.revision = l.rulebook_revision
      WHERE l.id IN (SELECT library_id FROM held_roles h JOIN people p ON p.id = h.person_id WHERE p.account = 'author')`),
);
await beside('groups', { as: 'admin', path: '/groups?limit=50' }, async () => {
  const groups = await db.query<{ id: string }[]>(
    'SELECT id, name FROM person_groups ORDER BY name LIMIT 50',
  );
  await db.query(
    `SELECT gp.group_id, p.account, p.name FROM group_people gp JOIN people p ON p.id = gp.person_id
     WHERE gp.group_id IN (${groups.map(() => '?').join()}) ORDER BY p.account`,
    groups.map(({ id }) => id),
  );
  await db.query(
    `SELECT gm.group_id, l.name FROM group_members gm JOIN libraries l ON l.id = gm.library_id
     WHERE gm.group_id IN (${groups.map(() => '?').join()})`,
    groups.map(({ id }) => id),
  );
  await db.query('SELECT COUNT(*) AS total FROM person_groups');
});
const [{ id: ownerId }] = (await db.query<{ id: string }[]>(
  "SELECT id FROM people WHERE account = 'owner2-1'",
)) as [{ id: string }];
await beside('the Desk', { as: 'owner2-1', path: '/desk' }, async () => {
  const of = async (sql: string): Promise<void> => {
    const rows = await db.query<{ id: string }[]>(sql, [ownerId]);
    await bareDocuments(
      db,
      rows.map(({ id }) => id),
    );
  };
  await of('SELECT document_id AS id FROM checkouts WHERE holder_id = ? ORDER BY until_at LIMIT 200');
  await of(`SELECT r.document_id AS id FROM approval_posts p JOIN approval_runs r ON r.id = p.run_id
      WHERE p.person_id = ? AND r.open_document_id IS NOT NULL AND p.decision IS NULL LIMIT 200`);
  await of(
    'SELECT document_id AS id FROM approval_runs WHERE submitter_id = ? AND open_document_id IS NOT NULL LIMIT 200',
  );
  await of(
    'SELECT document_id AS id FROM newest_versions WHERE person_id = ? AND kind = 128 AND later = 0 LIMIT 200',
  );
  await of(
    `SELECT h.document_id AS id FROM documents d JOIN heads h ON h.document_id = d.id
     WHERE d.owner_id = ? AND h.review_by < NOW() ORDER BY h.review_by LIMIT 200`,
  );
  await of(
    `SELECT n.document_id AS id FROM document_named n JOIN heads h USING (document_id) LEFT JOIN readings r ON r.version_id = h.in_force_id
       AND r.person_id = n.person_id WHERE n.person_id = ? AND n.purpose = 'reading' AND r.version_id IS NULL LIMIT 200`,
  );
  await db.query('SELECT * FROM desk_files WHERE person_id = ? LIMIT 200', [ownerId]);
  await db.query('SELECT * FROM notices WHERE person_id = ? ORDER BY id DESC LIMIT 50', [ownerId]);
});
for (const [name, as, part] of [
  ['decisions that wait', 'owner2-1', 'toDecide'],
  ['out for decision, of a controller', 'author', 'out'],
] as const) {
  const asked =
    part === 'out'
      ? `FROM approval_runs r JOIN documents d ON d.id = r.open_document_id WHERE r.waiting_since IS NOT NULL AND d.library_id = ?`
      : `FROM approval_posts p JOIN approval_runs r ON r.id = p.run_id WHERE p.person_id = ? AND r.open_document_id IS NOT NULL
         AND p.decision IS NULL`;
  const given = [part === 'out' ? largeId : ownerId];
  await beside(name, { as, path: `/approvals?limit=50&part=${part}` }, async () => {
    const ids = await db.query<{ id: string }[]>(
      `SELECT r.document_id AS id ${asked} ORDER BY r.waiting_since LIMIT 50`,
      given,
    );
    await db.query(`SELECT COUNT(*) AS runs ${asked}`, given);
    if (ids.length === 0) return;
    const places = ids.map(() => '?').join();
    await bareDocuments(
      db,
      ids.map(({ id }) => id),
    );
    await db.query(
      `SELECT p.*, w.name FROM approval_runs r JOIN approval_posts p ON p.run_id = r.id JOIN people w ON w.id = p.person_id
       WHERE r.open_document_id IN (${places})`,
      ids.map(({ id }) => id),
    );
  });
}
await beside('the Outbox, of 20,000 messages', { as: 'owner2-1', path: '/outbox?limit=50' }, async () => {
  const messages = await db.query<{ id: string }[]>(
    'SELECT id, at, kind, address, subject, sent_at, problem FROM outbox WHERE person_id = ? ORDER BY at DESC, id DESC LIMIT 50',
    [ownerId],
  );
  const about = await db.query<{ documentId: string }[]>(
    `SELECT document_id AS documentId, v.* FROM outbox_documents o JOIN versions v USING (document_id)
     WHERE v.id = o.version_id AND message_id IN (${messages.map(() => '?').join()})`,
    messages.map(({ id }) => id),
  );
  await bareDocuments(
    db,
    about.map(({ documentId }) => documentId),
  );
  await db.query('SELECT COUNT(*) AS messages FROM outbox WHERE person_id = ?', [ownerId]);
});
await beside('templates', { as: 'author', path: `/libraries/${largeId}/templates?limit=50` }, async () => {
  const templates = await db.query<{ id: string }[]>(
    'SELECT id FROM documents WHERE library_id = ? AND template_for IS NOT NULL ORDER BY template_for, number LIMIT 50',
    [largeId],
  );
  await bareDocuments(
    db,
    templates.map(({ id }) => id),
  );
});
const patternStart = 'SC-';
await beside('the next number', { as: 'author', path: `/libraries/${largeId}/next-number` }, () =>
  db.query(
    'SELECT MAX(number) AS highest FROM documents WHERE library_id = ? AND number > ? AND number < ?',
    [largeId, patternStart, `${patternStart}~`],
  ),
);
const lookedAt = '2025-01-01T00:00:00Z';
for (const as of ['author', 'owner2-1']) {
  const stood = `p.document_id = d.id AND p.from_at <= ? AND (p.until_at IS NULL OR p.until_at > ?)`;
  const at = [lookedAt, lookedAt].map((moment) => new Date(moment));
  for (const [name, path, only] of [
    ['the Register as of an earlier moment', 'documents', ''],
    ['in force as of an earlier moment', 'in-force', "AND p.standing = 'inForce'"],
  ] as const) {
    await beside(
      `${name}, ${as}`,
      { as, path: `/libraries/${largeId}/${path}?limit=50&asOf=${lookedAt}` },
      async () => {
        const rows = await db.query<{ id: string }[]>(
          `SELECT d.id FROM documents d WHERE d.library_id = ?
             AND EXISTS (SELECT 1 FROM version_periods p WHERE ${stood} ${only}) ORDER BY d.number LIMIT 50`,
          [largeId, ...at],
        );
        const ids = rows.map(({ id }) => id);
        const sql = `SELECT v.*, p.* FROM documents d JOIN version_periods p ON ${stood}
          JOIN versions v ON v.id = p.version_id WHERE d.id IN (${ids.map(() => '?').join()})`;
        await db.query({ sql, rowsAsArray: true }, [...at, ...ids]);
        await bareDocuments(db, ids);
      },
      // Read as they were and as they are.
      4,
    );
  }
}
for (const as of ['author', 'reader']) {
  const kinds = as === 'author' ? '1, 2, 4, 8, 16, 128' : '1';
  const index = as === 'author' ? 'one_place' : 'by_kind';
  await beside(
    `versions of a document of ${longHistory}, ${as}`,
    { as, path: `/documents/${longId}/versions?limit=200` },
    async () => {
      const sql = `SELECT v.*, (SELECT p.name FROM people p WHERE p.id = v.author_id) FROM versions v
        FORCE INDEX (${index}) WHERE v.document_id = ? AND v.kind IN (${kinds}) ORDER BY v.sequence DESC LIMIT 200`;
      await db.query({ sql, rowsAsArray: true }, [longId]);
      await db.query(
        `SELECT COUNT(*) AS versions FROM versions WHERE document_id = ? AND kind IN (${kinds})`,
        [longId],
      );
      await db.query('SELECT * FROM documents WHERE id = ?', [longId]);
    },
  );
}

const present = await ask<{ rulebook: object }>(`/libraries/${largeId}/rulebook`, { as: 'author' });
const proposals: Record<string, object> = {
  'a limit of 2 published versions': {
    keep: { published: 2 },
  },
  'drafts for readers': { sight: { draft: ['reader'], inApproval: [], rejected: [] } },
  'whole numbers': { numbering: 'whole' },
};
for (const [name, changes] of Object.entries(proposals)) {
  const from = performance.now();
  await ask(`/libraries/${largeId}/rulebook/consequences`, {
    as: 'author',
    method: 'POST',
    body: { ...present.rulebook, ...changes },
  });
  const between = performance.now();
  await db.query({ sql: versionsSql, rowsAsArray: true, bigIntAsNumber: true }, [largeId]);
  const [whole, pass] = [between - from, performance.now() - between];
  console.log(
    `consequences of ${name}: ${(whole / 1000).toFixed(1)} s, one pass ${(pass / 1000).toFixed(1)} s`,
  );
  tell(`consequences of ${name}`, whole / pass, 3);
}

// As in the small library: a successor sees what they decide about, and an owner has as many documents.
await setSight(['author', 'approver']);
const ownersOfLarge = ownersOf(large);
const beyond = `d.library_id = ? AND d.id > '00000000-0000-7000-8102-${String(owned * ownersOfLarge).padStart(12, '0')}'`;
await db.query(
  `UPDATE documents d JOIN people p ON p.account = 'author' SET d.owner_id = p.id WHERE ${beyond}`,
  [largeId],
);
await db.query(
  `UPDATE checkouts c JOIN documents d ON d.id = c.document_id JOIN people p ON p.account = 'author'
   SET c.holder_id = p.id WHERE ${beyond}`,
  [largeId],
);
await db.query(
  `UPDATE approval_posts a JOIN approval_runs r ON r.id = a.run_id JOIN documents d ON d.id = r.document_id
   JOIN people p ON p.account = 'author' SET a.person_id = p.id WHERE ${beyond}`,
  [largeId],
);
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
  tell(name, many / few, limits[name] ?? 1.5);
}
await db.end();
await place.close();
