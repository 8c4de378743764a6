import { createHash, randomBytes, randomInt } from 'node:crypto';
import { Readable } from 'node:stream';
import type * as contract from '@polychron/contract';
import type { Caller } from './access/caller.ts';
import { makeToken } from './access/sessions.ts';
import { performCreateLibrary } from './acts/libraries.ts';
import { performSetMembers } from './acts/setMembers.ts';
import { addPerson } from './acts/people.ts';
import { closeContext } from './compose.ts';
import { readContent, sha256 } from './content/contents.ts';
import type { Context } from './context.ts';
import { findPerson } from './store/people.ts';
import { ProcessUnderTest } from './testing/process.ts';
import { foundByHalves } from './testing/whole.ts';

let under: ProcessUnderTest;
let token = '';
let library = '';
beforeAll(async () => {
  under = await ProcessUnderTest.make();
  const context = under.context();
  const person = async (account: string, systemAdministrator: boolean): Promise<Caller> => {
    const one = { account, name: account, systemAdministrator };
    return { ...one, id: await addPerson(context, one) };
  };
  const [admin, author] = [await person('admin', true), await person('author', false)];
  ({ id: library } = await performCreateLibrary(
    { context, caller: admin },
    {
      name: 'Kept',
      code: 'KEPT',
      purpose: '',
      rulebook: {},
    },
  ));
  await performSetMembers({ context, caller: admin }, library, [
    { account: 'author', roles: ['author', 'controller'] },
  ]);
  token = (await makeToken({ context, caller: author }, { name: 'test' })).secret;
  await closeContext(context);
  await under.startServer();
}, 120_000);
afterAll(() => under.remove());

const ask = (
  method: string,
  path: string,
  body?: BodyInit | Readable,
  headers: Record<string, string> = {},
): Promise<Response> =>
  fetch(`${under.address}/api/v1${path}`, {
    method,
    headers: { Authorization: `Bearer ${token}`, ...headers },
    ...(body === undefined ? {} : { body: body as BodyInit, duplex: 'half' }),
  });
const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => {
    setTimeout(resolve, milliseconds);
  });
const form = (fields: Record<string, string>, bytes?: Buffer): FormData => {
  const data = new FormData();
  for (const [name, value] of Object.entries(fields)) data.append(name, value);
  if (bytes) data.append('file', new Blob([new Uint8Array(bytes)]), 'plan.bin');
  return data;
};
/** Where documents stand on the drive, by id. */
const driven = new Map<string, string>();

/** What a holder saves from a program, over the drive. */
const saveOnDrive = (id: string, bytes: Buffer): Promise<Response> =>
  fetch(`${under.address}${driven.get(id)}`, {
    method: 'PUT',
    headers: { Authorization: `Basic ${Buffer.from(`author:${token}`).toString('base64')}` },
    body: new Uint8Array(bytes),
  });

async function newDocument(title: string): Promise<string> {
  const made = await ask(
    'POST',
    `/libraries/${library}/documents`,
    form({ fields: JSON.stringify({ title }), comment: 'First' }, randomBytes(2000)),
  );
  expect(made.status).toBe(201);
  const { id, number } = (await made.json()) as { id: string; number: string };
  driven.set(id, `/dav/KEPT/${number}%20${title}.bin`);
  return id;
}

interface Kept {
  id: string;
  versions: Map<string, string>;
  workingCopy: string | null;
  asked: Set<string>;
}

/** How often something is killed in the middle of work, in all. */
const killRounds = Number(process.env['POLYCHRON_KILL_ROUNDS'] ?? 3);

/** Answers while the database is away, by code. */
const away = new Map<string, number>();

/** Whether an act was answered with its outcome; while the database is away it waits a little. */
async function isAnswered(answer: Response, expected: readonly number[]): Promise<boolean> {
  if (expected.includes(answer.status)) return true;
  if (answer.status !== 503) throw new Error(`answered ${answer.status}: ${await answer.text()}`);
  const { code } = (await answer.json()) as contract.Problem;
  expect(answer.headers.get('retry-after')).toBe('3');
  away.set(code, (away.get(code) ?? 0) + 1);
  await pause(20);
  return false;
}

/** Works on a document until the server is gone or it is enough, and remembers what was acknowledged. */
async function work(kept: Kept, isEnough = (): boolean => false): Promise<void> {
  try {
    while (!isEnough()) {
      const bytes = randomBytes(randomInt(1, 200_000));
      const hash = sha256(bytes);
      kept.asked.add(hash);
      const held = await ask('POST', `/documents/${kept.id}/checkout`, '{}', {
        'Content-Type': 'application/json',
      });
      if (!(await isAnswered(held, [201, 409]))) continue;
      if (randomInt(2) === 0) {
        const saved =
          randomInt(2) === 0
            ? await saveOnDrive(kept.id, bytes)
            : await ask('PUT', `/documents/${kept.id}/checkout/content`, new Uint8Array(bytes), {
                'Content-Type': 'application/octet-stream',
                'Content-Disposition': 'attachment; filename="plan.bin"',
              });
        if (await isAnswered(saved, [200, 204, 409, 423])) {
          await saved.text();
          if (saved.ok) kept.workingCopy = hash;
        }
        continue;
      }
      const made = await ask(
        'POST',
        `/documents/${kept.id}/checkin`,
        form({ comment: 'x', level: 'minor', keepCheckedOut: String(randomInt(2) === 0) }, bytes),
      );
      if ((await isAnswered(made, [201, 409])) && made.status === 201) {
        const version = (await made.json()) as contract.Version;
        kept.versions.set(version.label, version.sha256);
        kept.workingCopy = null;
      }
    }
  } catch (error) {
    // The connection breaks when the server is killed; anything else is a fault.
    if (!['TypeError', 'AbortError', 'SocketError'].includes((error as Error).name)) throw error;
  }
}

/** What the database holds after a kill: everything acknowledged, nothing by halves. */
async function check(context: Context, kept: Kept): Promise<void> {
  const versions = new Map(
    (await context.models.Version.findAll({ where: { documentId: kept.id }, order: ['sequence'] })).map(
      (row) => [`${row.major}.${row.minor}`, row],
    ),
  );
  for (const [label, hash] of kept.versions) expect(versions.get(label)?.sha256).toBe(hash);
  for (const row of versions.values()) {
    const bytes = await readContent(context, row.sha256);
    expect([sha256(bytes), bytes.length]).toEqual([row.sha256, Number(row.size)]);
  }
  const head = await context.models.Head.findByPk(kept.id, { rejectOnEmpty: true });
  const newest = [...versions.values()].at(-1);
  expect([head.latestId, head.lastSequence, head.highestMinor]).toEqual([
    newest?.id,
    versions.size,
    newest?.minor,
  ]);
  const saves = await context.models.Save.findAll({ where: { documentId: kept.id }, order: ['position'] });
  for (const save of saves) expect(sha256(await readContent(context, save.sha256))).toBe(save.sha256);
  const last = saves.at(-1)?.sha256 ?? null;
  // What was acknowledged last is there, or what was asked after it and carried out before the answer could
  // be given.
  if (kept.workingCopy !== null && last !== kept.workingCopy) {
    const made =
      newest && !kept.versions.has(`${newest.major}.${newest.minor}`) && kept.asked.has(newest.sha256);
    expect(made || (last !== null && kept.asked.has(last))).toBe(true);
  }
}

test('the database ended, killed and away for a while under load: the server lives, says so, and goes on by itself', async () => {
  const kept: Kept = {
    id: await newDocument('away'),
    versions: new Map(),
    workingCopy: null,
    asked: new Set(),
  };
  // Few of them find no work that was acknowledged.
  const rounds = Math.max(8, Math.ceil(killRounds / 25));
  const before = under.serverId;
  for (let round = 0; round < rounds; round += 1) {
    let enough = false;
    const reading = async (): Promise<void> => {
      while (!enough) {
        const answer = await ask('GET', `/documents/${kept.id}/versions?limit=5`);
        if (await isAnswered(answer, [200])) await answer.json();
      }
    };
    const working = [work(kept, () => enough), ...Array.from({ length: 12 }, reading)];
    await pause(randomInt(200, 800));
    await under.endDatabase((['SIGKILL', 'SIGTERM'] as const)[round % 2] ?? 'SIGKILL');
    if (round % 4 > 1) await pause(randomInt(500, 2000));
    await under.startDatabase();
    const back = Date.now();
    for (let status = 0; status !== 200;) {
      ({ status } = await ask('GET', `/documents/${kept.id}`));
      expect(Date.now() - back).toBeLessThan(20_000);
    }
    await pause(300);
    enough = true;
    await Promise.all(working);
    expect(under.serverId).toBe(before);
    expect(under.isServerAlive).toBe(true);
    const context = under.context();
    await check(context, kept);
    await closeContext(context);
    const answer = await ask('GET', `/documents/${kept.id}/checkout`);
    kept.workingCopy =
      answer.status === 404
        ? null
        : (((await answer.json()) as contract.Custody).workingCopy?.sha256 ?? null);
  }
  expect(away.get('database-away')).toBeGreaterThan(0);
  expect([...away.keys()].every((code) => ['database-away', 'not-known-whether-kept'].includes(code))).toBe(
    true,
  );
  expect(kept.versions.size).toBeGreaterThan(0);
}, 600_000);

/** A library whose rules change, in which a document is published again and again, and thinned. */
interface Ruled {
  library: string;
  document: string;
  revision: number;
  published: Map<string, string>;
}

/** Changes the rules again and again, so that now much is thinned and now nothing. */
async function changeRules(ruled: Ruled, isEnough: () => boolean): Promise<void> {
  for (let turn = 0; !isEnough(); turn += 1) {
    const keep =
      turn % 2 === 0
        ? { published: 1, drafts: { stay: 'untilPublished', newest: null }, spareYoungerThan: null }
        : { published: null, drafts: { stay: 'all', newest: null }, spareYoungerThan: null };
    const body = JSON.stringify({ keep, reason: `Turn ${turn}` });
    const set = await ask('PUT', `/libraries/${ruled.library}/rulebook`, body, json);
    // The first turn of a round may ask for the rules there are.
    if (!(await isAnswered(set, [200, 422])) || set.status === 422) continue;
    ({ revision: ruled.revision } = (await set.json()) as { revision: number });
  }
}
const json = { 'Content-Type': 'application/json' };

/** Publishes again and again: what was in force is superseded, and thinned where the rules say so. */
async function publishOn(ruled: Ruled, isEnough: () => boolean): Promise<void> {
  while (!isEnough()) {
    const bytes = randomBytes(randomInt(1, 20_000));
    if (
      !(await isAnswered(await ask('POST', `/documents/${ruled.document}/checkout`, '{}', json), [201, 409]))
    )
      continue;
    const fields = { comment: 'x', level: randomInt(2) === 0 ? 'major' : 'minor' };
    const made = await ask('POST', `/documents/${ruled.document}/checkin`, form(fields, bytes));
    if (!(await isAnswered(made, [201, 409])) || made.status !== 201) continue;
    ruled.published.set(((await made.json()) as contract.Version).label, sha256(bytes));
  }
}

/** Private copies of a document, edited and brought in. */
interface Brought {
  document: string;
  /** Files on the Desk by what they hold, and whether it was answered that they are brought in. */
  files: Map<string, { hash: string; answered: boolean }>;
}

async function bringOn({ document, files }: Brought, isEnough: () => boolean): Promise<void> {
  while (!isEnough()) {
    const taken = await ask('POST', `/documents/${document}/versions/0.1/loose-copy`, '{}', json);
    if (!(await isAnswered(taken, [201]))) continue;
    const { id } = (await taken.json()) as contract.DeskFile;
    const bytes = randomBytes(randomInt(1, 20_000));
    const file = { hash: sha256(bytes), answered: false };
    const saved = await ask('PUT', `/desk/files/${id}/content`, new Uint8Array(bytes), {
      'Content-Type': 'application/octet-stream',
      'Content-Disposition': 'attachment; filename="plan.bin"',
    });
    if (!(await isAnswered(saved, [200]))) continue;
    files.set(id, file);
    const confirm = ['stale-base', 'same-bytes', 'other-name'];
    const body = JSON.stringify({ level: 'minor', comment: 'x', confirm });
    if (await isAnswered(await ask('POST', `/desk/files/${id}/bring-in`, body, json), [201]))
      file.answered = true;
  }
}

/** What was answered is there; a file is brought in and gone from the Desk, or neither. */
async function checkBrought({ models }: Context, { document, files }: Brought): Promise<void> {
  const versions = await models.Version.findAll({ where: { documentId: document } });
  const hashes = new Set(versions.map((version) => version.sha256));
  const desk = new Set((await models.DeskFile.findAll({ attributes: ['id'] })).map(({ id }) => id));
  for (const [id, { hash, answered }] of files) {
    expect([id, hashes.has(hash)]).toEqual([id, !desk.has(id)]);
    if (answered) expect([id, hashes.has(hash)]).toEqual([id, true]);
  }
}

/** Work that a killed server breaks off. */
const untilKilled = (work: Promise<void>): Promise<void> =>
  work.catch((error: unknown) => {
    if (!['TypeError', 'AbortError', 'SocketError'].includes((error as Error).name)) throw error;
  });

test('server, database, or both killed amid saves, check-ins, publications, thinning, changes of rules, bringing in and sweeps: what was answered is there, nothing is by halves, the Ledger is whole', async () => {
  const documents: Kept[] = [];
  for (const title of ['one', 'two'])
    documents.push({
      id: await newDocument(title),
      versions: new Map(),
      workingCopy: null,
      asked: new Set(),
    });
  const brought: Brought = { document: await newDocument('brought'), files: new Map() };
  const ruled: Ruled = { ...(await ruledLibrary()), revision: 1, published: new Map() };
  let ended = { server: 0, database: 0 };
  /** How often each kind of act was answered, of the kind that was answered least. */
  const fewest = (): number =>
    Math.min(
      ...documents.map(({ versions }) => versions.size),
      ruled.published.size,
      ruled.revision,
      [...brought.files.values()].filter(({ answered }) => answered).length,
    );
  // On a slow machine little is answered before a kill: then there are more of them, each a little later.
  for (let round = 0; round < killRounds || fewest() < 3; round += 1) {
    let enough = false;
    const isEnough = (): boolean => enough;
    const working = [
      ...documents.map((kept) => work(kept, isEnough)),
      ...[changeRules(ruled, isEnough), publishOn(ruled, isEnough), bringOn(brought, isEnough)].map(
        untilKilled,
      ),
    ];
    await pause(randomInt(50, 400 + 20 * round));
    const kills = { server: round % 5 === 0, database: round % 5 !== 0 || round % 10 === 0 };
    if (kills.server) await under.killServer();
    if (kills.database) await under.endDatabase('SIGKILL');
    if (kills.database) await under.startDatabase();
    ended = {
      server: ended.server + Number(kills.server),
      database: ended.database + Number(kills.database),
    };
    enough = true;
    await Promise.all(working);
    const context = under.context();
    for (const kept of documents) await check(context, kept);
    await checkBrought(context, brought);
    const versions = await context.models.Version.findAll({ where: { documentId: ruled.document } });
    const labels = new Map(versions.map(({ major, minor, sha256: hash }) => [`${major}.${minor}`, hash]));
    for (const [label, hash] of ruled.published) expect([label, labels.get(label)]).toEqual([label, hash]);
    const { rulebookRevision } = await context.models.Library.findByPk(ruled.library, {
      rejectOnEmpty: true,
    });
    expect(rulebookRevision).toBeGreaterThanOrEqual(ruled.revision);
    const isLast = round >= killRounds - 1;
    if (kills.server || isLast)
      expect(await foundByHalves(context, { bytes: round % 50 === 0 || isLast })).toEqual([]);
    await closeContext(context);
    if (kills.server) await under.startServer();
    for (let status = 0; status !== 200;) ({ status } = await ask('GET', `/documents/${ruled.document}`));
    // Whatever was saved last before the kill is what goes on from here.
    for (const kept of documents) {
      const answer = await ask('GET', `/documents/${kept.id}/checkout`);
      if (answer.status === 404) kept.workingCopy = null;
      else kept.workingCopy = ((await answer.json()) as contract.Custody).workingCopy?.sha256 ?? null;
    }
  }
  // What killed servers have left goes by its age.
  expect(under.stagingFolders.length).toBeLessThanOrEqual(ended.server + 1);
  expect(ended.server + ended.database).toBeGreaterThanOrEqual(killRounds);
}, 3_600_000);

/** A library without approval, and a document of it. */
async function ruledLibrary(): Promise<{ library: string; document: string }> {
  const context = under.context();
  const admin = await findPerson(context, 'admin');
  if (!admin) throw new Error('there is no administrator');
  const asker = { context, caller: { ...admin.get({ plain: true }), systemAdministrator: true } };
  const { id } = await performCreateLibrary(asker, {
    name: 'Ruled',
    code: 'RULED',
    purpose: '',
    rulebook: {},
  });
  await performSetMembers(asker, id, [{ account: 'author', roles: ['author', 'controller'] }]);
  await closeContext(context);
  const fields = { fields: JSON.stringify({ title: 'Ruled' }), comment: 'First' };
  const made = await ask('POST', `/libraries/${id}/documents`, form(fields, randomBytes(100)));
  expect(made.status).toBe(201);
  return { library: id, document: ((await made.json()) as { id: string }).id };
}

/** More than the server may grow by. */
const largeFile = process.env['POLYCHRON_KILL_ROUNDS'] === undefined ? 120 : 200;
test(`a file of ${largeFile} MB is saved, checked in and downloaded while the server grows by less than 100 MB`, async () => {
  const id = await newDocument('large');
  await ask('POST', `/documents/${id}/checkout`, '{}', { 'Content-Type': 'application/json' });
  const size = largeFile << 20;
  const part = randomBytes(1 << 20);
  const stream = (hash = createHash('sha256')): { body: Readable; digest: () => string } => {
    let sent = 0;
    const body = Readable.from(
      (function* parts() {
        // Each part differs, or the chunks would be stored once.
        for (; sent < size; sent += part.length) {
          part.writeUInt32LE(sent, randomInt(4) * 1000);
          const copy = Buffer.from(part.map((byte) => byte ^ (sent >>> 20)));
          hash.update(copy);
          yield copy;
        }
      })(),
    );
    return { body, digest: () => hash.digest('hex') };
  };
  // Warm: what the server holds anyway once it has taken in and given out a file of some size.
  const warm = {
    'Content-Type': 'application/octet-stream',
    'Content-Disposition': 'attachment; filename="plan.bin"',
  };
  expect(
    (await ask('PUT', `/documents/${id}/checkout/content`, new Uint8Array(randomBytes(40 << 20)), warm))
      .status,
  ).toBe(200);
  expect((await (await ask('GET', `/documents/${id}/checkout/content`)).arrayBuffer()).byteLength).toBe(
    40 << 20,
  );
  const before = under.memory;
  let peak = before;
  const watch = setInterval(() => {
    peak = Math.max(peak, under.memory);
  }, 20);
  const file = stream();
  const saved = await ask('PUT', `/documents/${id}/checkout/content`, file.body, warm);
  expect(saved.status).toBe(200);
  const hash = file.digest();
  expect(((await saved.json()) as contract.Custody).workingCopy).toMatchObject({ size, sha256: hash });
  const made = await ask('POST', `/documents/${id}/checkin`, form({ comment: 'Large', level: 'minor' }));
  expect((await made.json()) as contract.Version).toMatchObject({ label: '0.2', sha256: hash });
  const came = createHash('sha256');
  const answer = await ask('GET', `/documents/${id}/versions/0.2/content`);
  for await (const bytes of answer.body as unknown as AsyncIterable<Uint8Array>) came.update(bytes);
  clearInterval(watch);
  expect(came.digest('hex')).toBe(hash);
  expect((peak - before) >> 20).toBeLessThan(100);
});
