import { DocumentQuery, namesOnPath, subjectPath } from '@polychron/contract';
import {
  type Actor,
  areFound,
  explain,
  findableWords,
  dayAfter,
  reviewState,
  type Role,
  sightFacts,
  type SightRole,
  soughtWords,
  type Standing,
  type State,
  type Version,
} from '@polychron/core';
import fc from 'fast-check';
import { testServer } from '../testing/started.ts';
import { run, transact } from './database.ts';
import { loadDocuments, type LoadedDocument } from './documents.ts';
import { keepCircles, keepNamed } from './named.ts';
import { rebuildHeads } from './rebuildHeads.ts';
import { findRegister, findSubjects } from './register.ts';
import { loadVersions, type Sight } from './versions.ts';

const server = testServer();

const people = ['author', 'author2', 'approver', 'controller'];
const kinds: [State, Standing | null][] = [
  ['draft', null],
  ['inApproval', null],
  ['approved', null],
  ['rejected', null],
  ['withdrawn', null],
  ['published', 'scheduled'],
  ['published', 'superseded'],
];
const titles = ['rope', 'wind table', 'ötztal rescue', 'rope splice'];
const subjects = [['line one'], ['line two'], ['line one', 'a/b, höher'], ['a/b, höher', 'line one']];

/** One version as it is put into the table, whatever act would make it. */
const made = fc.record({
  kind: fc.nat(kinds.length - 1),
  author: fc.nat(people.length - 1),
  title: fc.nat(titles.length - 1),
  subject: fc.nat(subjects.length - 1),
  comment: fc.constantFrom('after storm', 'checked', 'storm damage mended', ''),
  thinned: fc.boolean(),
});
const life = fc.record({
  versions: fc.array(made, { minLength: 1, maxLength: 6 }),
  inForce: fc.option(fc.nat(5)),
  owner: fc.nat(people.length - 1),
  coAuthor: fc.option(fc.nat(people.length - 1)),
  reviewIn: fc.option(fc.constantFrom(-1, 0, 29, 30, 31)),
  circle: fc.option(fc.subarray([0, 1, 2]), { freq: 2 }),
  voided: fc.integer({ max: 3, min: 0 }).map((place) => place === 0),
  holder: fc.option(fc.record({ who: fc.nat(people.length - 1), base: fc.nat(5), overdue: fc.boolean() })),
});
type Life = typeof life extends fc.Arbitrary<infer T> ? T : never;

async function put(libraryId: string, life: Life): Promise<string> {
  const { versions, inForce, owner, coAuthor, holder, circle, reviewIn, voided } = life;
  const { models } = server.context;
  const idOf = async (place: number): Promise<string> => (await server.caller(people[place] ?? '')).id;
  const { id } = await server.document(libraryId, 'first');
  const [first] = await models.Version.findAll({ where: { documentId: id } });
  if (!first) throw new Error('no version');
  const ids: string[] = [];
  for (const [place, one] of versions.entries()) {
    const governs = inForce !== null && inForce % versions.length === place;
    const [state, standing] = governs
      ? (['published', 'inForce'] as const)
      : (kinds[one.kind] ?? ['draft', null]);
    const versionId = `${id.slice(0, 30)}${String(place).padStart(6, '0')}`;
    ids.push(versionId);
    server.pass(1);
    await models.Version.create({
      ...first.get({ plain: true }),
      id: versionId,
      sequence: place + 2,
      minor: place + 10,
      state,
      standing,
      authorId: await idOf(one.author),
      at: server.now,
      comment: one.comment,
      thinnedAt: one.thinned && !governs ? server.now : null,
      fields: { title: titles[one.title] ?? '', subject: subjects[one.subject] ?? [] },
    });
  }
  await models.Version.update({ sequence: 1, state: 'rejected' }, { where: { id: first.id } });
  await models.Head.update(
    {
      latestId: ids.at(-1) ?? '',
      inForceId: inForce === null ? null : (ids[inForce % ids.length] ?? null),
      lastSequence: versions.length + 1,
    },
    { where: { documentId: id } },
  );
  await models.Document.update(
    { ownerId: await idOf(owner), coAuthorIds: coAuthor === null ? [] : [await idOf(coAuthor)] },
    { where: { id } },
  );
  const reviewBy = inForce === null || reviewIn === null ? null : dayAfter(server.now, reviewIn);
  await run(server.context.db, 'UPDATE heads SET review_by = :reviewBy WHERE document_id = :id', {
    id,
    reviewBy,
  });
  if (circle) {
    const personIds = await Promise.all(circle.map(idOf));
    await transact(server.context.db, async (tx) => {
      const limit = { personIds, groupIds: [], memberIds: personIds };
      await keepNamed(server.context, { documentId: id, purpose: 'limit' }, limit, { at: server.now, tx });
      await keepCircles(server.context, [id], tx);
    });
  }
  if (voided) {
    const by = { voidedAt: server.now, voidedBy: await idOf(3), voidedReason: 'Twice' };
    await models.Document.update(by, { where: { id } });
  }
  if (holder) {
    const untilAt = new Date(server.now.getTime() + (holder.overdue ? -1 : 1) * 36e5 * 24 * 400);
    const baseId = ids[holder.base % ids.length] ?? '';
    await models.Checkout.create({
      ...{ documentId: id, holderId: await idOf(holder.who), since: server.now },
      ...{ untilAt, reason: null, baseId, door: 'web' as const },
    });
  }
  return id;
}

const queries: Record<string, unknown>[] = [
  {},
  { sort: 'title' },
  { sort: 'changed' },
  ...['draft', 'inApproval', 'approved', 'rejected', 'published', 'withdrawn'].map((state) => ({ state })),
  { q: 'stor' },
  { q: 'otz rescue' },
  { q: 'rope storm', sort: 'changed' },
  { q: 'nowhere' },
  { subject: 'line one', sort: 'title' },
  ...[['line one'], ['line one', 'a/b, höher'], ['line two', 'line one']].map((names) => ({
    path: subjectPath(names),
  })),
  { owner: 'author' },
  { owner: 'author2', state: 'draft' },
  ...['anyone', 'nobody', 'me', 'author2'].map((heldBy) => ({ heldBy })),
  { heldBy: 'nobody', state: 'published', sort: 'changed' },
  { overdue: 'true' },
  { overdue: 'true', q: 'checked' },
  { review: 'due' },
  { voided: 'true' },
  { voided: 'true', q: 'stor', sort: 'title' },
  { voided: 'true', state: 'published', sort: 'changed' },
  { voided: 'true', subject: 'line one' },
  { review: 'passed', q: 'stor' },
];

interface Stored {
  document: LoadedDocument;
  versions: Version[];
}

interface Seen {
  document: LoadedDocument;
  visible: Version[];
  latest: Version;
}

/** What somebody sees, asked of `explain` version by version. */
const seenOf = (stored: readonly Stored[], actor: Actor): Seen[] =>
  stored.flatMap(({ document, versions }) => {
    const visible = versions.filter(
      (version) => explain(actor, sightFacts(document, version), document.rules).sees,
    );
    const latest = visible.at(-1);
    return latest ? [{ document, visible, latest }] : [];
  });

const isOnPath = ({ latest }: Seen, names: readonly string[]): boolean =>
  names.every((name, place) => latest.fields.subject?.[place] === name);

/** Every path of subjects with what comes next on it, a name a part. */
async function subjectsOf(libraryId: string, sight: Sight): Promise<Map<string, string[]>> {
  const found = new Map<string, string[]>();
  for (const names of [[], ...subjects]) {
    const next: string[] = [];
    for (let after = ''; ; after = next.at(-1) ?? '') {
      const part = await findSubjects(server.context, libraryId, sight, { names, after, limit: 1 });
      if (part.length === 0) break;
      next.push(...part);
    }
    found.set(JSON.stringify(names), next);
  }
  return found;
}

const isDue = (review: 'due' | 'passed', by: string | null): boolean =>
  reviewState(by, server.now) === 'passed' || (review === 'due' && reviewState(by, server.now) === 'soon');

/** What the Register is. */
function expected(stored: readonly Stored[], actor: Actor, query: DocumentQuery): string[] {
  const seen = seenOf(stored, actor);
  const matching = seen.filter((one) => {
    const { document, visible, latest } = one;
    const { custody, number } = document;
    const words = visible.flatMap(({ fields, comment }) => findableWords(number, fields, comment));
    const accountOf = (id: string | undefined): string | undefined => accounts.get(id ?? '');
    const holder = accountOf(custody?.holderId);
    const isHeld = {
      anyone: holder !== undefined,
      nobody: holder === undefined,
      me: custody?.holderId === actor.id,
    }[query.heldBy ?? ''];
    return (
      (document.voided !== null) === (query.voided ?? false) &&
      (!query.state || latest.state === query.state) &&
      (!query.q || areFound(soughtWords(query.q), words)) &&
      (!query.subject || latest.fields.subject?.includes(query.subject)) &&
      (!query.path || isOnPath(one, namesOnPath(query.path))) &&
      (!query.owner || accountOf(document.ownerId) === query.owner) &&
      (!query.heldBy || (isHeld ?? holder === query.heldBy)) &&
      (!query.review || isDue(query.review, document.reviewBy)) &&
      (!query.overdue ||
        (custody?.until && custody.until < server.now && visible.some(({ id }) => id === custody.base.id)))
    );
  });
  const byText = (a: string, b: string): number => a.localeCompare(b, 'en', { sensitivity: 'base' });
  const byNumber = (a: (typeof seen)[number], b: (typeof seen)[number]): number =>
    byText(a.document.number, b.document.number);
  const orders = {
    number: byNumber,
    title: (a, b) => byText(a.latest.fields.title, b.latest.fields.title) || byNumber(a, b),
    changed: (a, b) => b.latest.at.getTime() - a.latest.at.getTime() || byNumber(a, b),
  } satisfies Record<string, typeof byNumber>;
  return matching.sort(orders[query.sort]).map(({ document }) => document.id);
}

const accounts = new Map<string, string>();
const sights: SightRole[][] = [['author'], [], ['approver', 'auditor']];
const held: [string, Role[]][] = [
  ['author', ['author']],
  ['author2', ['author', 'reader']],
  ['approver', ['approver']],
  ['controller', ['controller']],
  ['author', ['reader']],
  ['approver', ['auditor']],
  ['author2', []],
];

/** Asks page by page, and holds each total against the whole. */
async function listed(
  libraryId: string,
  actor: Actor,
  rules: LoadedDocument['rules'],
  asked: { query: DocumentQuery; gather: number },
): Promise<{ ids: string[]; totals: { total: number; about: boolean }[] }> {
  const ids: string[] = [];
  const totals: { total: number; about: boolean }[] = [];
  for (let cursor: string | undefined; ;) {
    const query = { ...asked.query, ...(cursor ? { cursor } : {}) };
    const part = await findRegister(
      server.context,
      libraryId,
      { actor, rules },
      { ...asked, query, now: server.now },
    );
    ids.push(...part.ids);
    totals.push({ total: part.total, about: part.about });
    if (part.next === null) return { ids, totals };
    cursor = part.next;
  }
}

test('the Register is what explain lets each person see, in every order, by every filter, page by page', async () => {
  for (const account of people) accounts.set((await server.caller(account)).id, account);
  const lives = fc.tuple(
    fc.nat(sights.length - 1),
    fc.boolean(),
    fc.array(life, { minLength: 8, maxLength: 8 }),
  );
  await fc.assert(
    fc.asyncProperty(lives, async ([sight, readersSeePast, documents]) => {
      const named = sights[sight] ?? [];
      const rulebook = { sight: { draft: named, inApproval: named, rejected: named }, readersSeePast };
      const libraryId = await server.library(rulebook);
      const ids: string[] = [];
      for (const one of documents) ids.push(await put(libraryId, one));
      await rebuildHeads(server.context.db);
      const loaded = await loadDocuments(server.context, ids);
      const stored: Stored[] = [];
      for (const document of loaded.values()) {
        stored.push({ document, versions: await loadVersions(server.context, document.id) });
      }
      const rules = [...loaded.values()][0]?.rules;
      if (!rules) throw new Error('no documents');
      for (const [account, roles] of held) {
        const actor = { ...(await server.caller(account)), roles: new Set(roles) };
        for (const [path, next] of await subjectsOf(libraryId, { actor, rules })) {
          const names = JSON.parse(path) as string[];
          const right = seenOf(stored, actor)
            .filter((one) => !one.document.voided && isOnPath(one, names))
            .flatMap(({ latest }) => latest.fields.subject?.[names.length] ?? []);
          expect({ account, roles, path, next }).toEqual({
            account,
            roles,
            path,
            next: [...new Set(right)].sort(),
          });
        }
        for (const asked of queries) {
          const query = DocumentQuery.parse({ limit: 3, ...asked });
          const right = expected(stored, actor, query);
          // Gathered, and walked as a large library would be.
          for (const gather of [2000, 0]) {
            const { ids: found, totals } = await listed(libraryId, actor, rules, { query, gather });
            expect({ account, roles, asked, found }).toEqual({ account, roles, asked, found: right });
            for (const { total, about } of totals) {
              if (!about) expect({ asked, gather, total }).toEqual({ asked, gather, total: right.length });
            }
          }
        }
      }
    }),
    { numRuns: Number(process.env['POLYCHRON_TEST_RUNS'] ?? 2), endOnFailure: true },
  );
}, 120_000);
