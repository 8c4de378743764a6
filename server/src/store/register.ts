import { dayAfter, reviewAhead, soughtWords } from '@polychron/core';
import { type DocumentQuery, namesOnPath } from '@polychron/contract';
import { partOf, readCursor, writeCursor } from './cursors.ts';
import { likeBeginning, rows } from './database.ts';
import type { Group } from './newest.ts';
import { countSeen, inGroup, latestGroups, latestSeen, type Wanted, wantedOf } from './seenNewest.ts';
import { kindsIn, kindsInState, seesEveryKind, sightCondition, sightWithVoided } from './sight.ts';
import type { Store } from './store.ts';
import type { Sight } from './versions.ts';

interface Found {
  id: string;
  number: string;
  sortKey: string | Date;
}

/** A part of a Register: ids in order, the cursor of the next part, and how many documents match. */
export interface RegisterPart {
  ids: string[];
  next: string | null;
  total: number;
  /** Whether the total is an estimate. */
  about: boolean;
}

/**
 * Documents that one filter lets through are gathered and sorted while they are at most so many; of more, the
 * list is walked in its order, since what is looked for then comes along soon.
 */
const mostGathered = 5000;

/**
 * A part of a library's Register for somebody; what it costs grows with the part, not with the library. With
 * `within` as for somebody who sees of it no other kinds than these.
 */
export async function findRegister(
  store: Store,
  libraryId: string,
  { actor, rules }: Sight,
  asked: { query: DocumentQuery; now: Date; gather?: number; within?: number },
): Promise<RegisterPart> {
  const { query, now, gather = mostGathered, within } = asked;
  if (query.voided) return findVoided(store, libraryId, { actor, rules }, { query, now });
  const wanted = wantedOf(libraryId, actor, rules, { state: query.state, within });
  const sight = {
    condition: sightCondition(actor, rules, within),
    whole: within === undefined && seesEveryKind(actor, rules),
  };
  const filters = filtersOf(query, sight, now);
  const given = Object.assign({ libraryId, viewer: actor.id, now }, ...filters.map((one) => one.given ?? {}));
  const search: Search = { store, wanted, query, filters, given };
  const narrow = await narrowest(search, gather);
  if (narrow) return gathered(search, narrow);
  return walked(search);
}

/**
 * Voided documents, for whoever sees such: few, since each was a mistake, so that they are gathered and not
 * walked.
 */
async function findVoided(
  store: Store,
  libraryId: string,
  { actor, rules }: Sight,
  { query, now }: { query: DocumentQuery; now: Date },
): Promise<RegisterPart> {
  const seen = sightWithVoided(actor, rules);
  const filters = filtersOf(query, { condition: seen, whole: false }, now);
  const given = Object.assign({ libraryId, viewer: actor.id, now }, ...filters.map((one) => one.given ?? {}));
  const inState = query.state ? `AND l.kind IN (${kindsIn(kindsInState(query.state)).join()})` : '';
  const voided = `(SELECT d.id AS document_id, d.number, l.id AS version_id,
      JSON_VALUE(l.fields, '$.title') AS title, l.at AS changed
    FROM documents d LEFT JOIN checkouts c ON c.document_id = d.id
    JOIN versions l ON l.id = (SELECT v.id FROM versions v WHERE v.document_id = d.id AND ${seen}
      ORDER BY v.sequence DESC LIMIT 1) ${inState}
    WHERE d.library_id = :libraryId AND d.voided_at IS NOT NULL)`;
  const source = 'SELECT id FROM documents WHERE library_id = :libraryId AND voided_at IS NOT NULL';
  const wanted = wantedOf(libraryId, actor, rules);
  return gathered(
    { store, wanted, query, filters, given, voided },
    { source, condition: 'TRUE', exact: false },
  );
}

interface Search {
  store: Store;
  wanted: Wanted;
  /** Rows of voided documents, where those are meant, in place of `newest_versions`. */
  voided?: string;
  query: DocumentQuery;
  filters: readonly Filter[];
  given: Record<string, unknown>;
}

/** One filter of the Register. */
interface Filter {
  /** Over rows `n` of `newest_versions`. */
  condition: string;
  /**
   * A statement that gives the `id` of every document that it may let through; null where that is nearly
   * all.
   */
  source: string | null;
  /** Whether the source gives none besides, so that what it gives need not be held against the condition. */
  exact: boolean;
  given?: Record<string, unknown>;
}

/** The versions somebody sees, as a condition over `v`, `d` and `c`; `whole` where that is every one. */
interface SeenVersions {
  condition: string;
  whole: boolean;
}

/**
 * Every filter speaks of versions the caller sees, and of custody as far as everyone who sees the document
 * may know it.
 */
function filtersOf(query: DocumentQuery, sight: SeenVersions, now: Date): Filter[] {
  const { q, subject, path, owner, heldBy, overdue, review } = query;
  return [
    ...(q ? wordFilters(q, sight) : []),
    ...(subject ? [subjectFilter(subject)] : []),
    ...(path ? [pathFilter(namesOnPath(path))] : []),
    ...(owner ? [ownerFilter(owner)] : []),
    ...(heldBy ? [heldFilter(heldBy)] : []),
    ...(overdue ? [overdueFilter(sight)] : []),
    ...(review ? [reviewFilter(review, now)] : []),
  ];
}

/** Every word that is looked for begins a word of some version that is seen. */
function wordFilters(q: string, sight: SeenVersions): Filter[] {
  const words = soughtWords(q);
  if (words.length === 0) return [nothing];
  return words.map((word, place) => ({
    condition: `(EXISTS (SELECT 1 FROM versions l WHERE l.id = n.version_id AND l.found_by LIKE :like${place} ESCAPE '|')
      OR EXISTS (SELECT 1 FROM versions v JOIN documents d ON d.id = v.document_id
        LEFT JOIN checkouts c ON c.document_id = v.document_id
        WHERE v.document_id = n.document_id AND v.found_by LIKE :like${place} ESCAPE '|' AND ${sight.condition}))`,
    source: `SELECT DISTINCT document_id AS id FROM document_words
      WHERE library_id = :libraryId AND word LIKE :word${place} ESCAPE '|'`,
    exact: sight.whole,
    given: { [`like${place}`]: `% ${likeBeginning(word)}`, [`word${place}`]: likeBeginning(word) },
  }));
}

const nothing: Filter = { condition: 'FALSE', source: 'SELECT id FROM documents WHERE FALSE', exact: true };

const subjectFilter = (subject: string): Filter => ({
  condition: `EXISTS (SELECT 1 FROM versions l WHERE l.id = n.version_id
    AND JSON_CONTAINS(l.fields, JSON_QUOTE(:subject), '$.subject'))`,
  source:
    'SELECT DISTINCT document_id AS id FROM document_subjects WHERE library_id = :libraryId AND subject = :subject',
  exact: false,
  given: { subject },
});

/** The subjects begin with these, in this order. */
function pathFilter(names: readonly string[]): Filter {
  const last = names.length - 1;
  return {
    condition: `EXISTS (SELECT 1 FROM versions l WHERE l.id = n.version_id AND ${beginsWithPath(names)})`,
    source: `SELECT document_id AS id FROM document_subjects
      WHERE library_id = :libraryId AND place = ${last} AND subject = :path${last}`,
    exact: false,
    given: pathGiven(names),
  };
}

/** Whether the subjects of a version `l` begin with names, which `pathGiven` gives. */
export const beginsWithPath = (names: readonly string[]): string =>
  names.map((_, place) => `${subjectAt(place)} = :path${place}`).join(' AND ') || 'TRUE';
/** The names on a path, for `beginsWithPath`. */
export const pathGiven = (names: readonly string[]): Record<string, string> =>
  Object.fromEntries(names.map((name, place) => [`path${place}`, name]));
const subjectAt = (place: number): string =>
  `JSON_VALUE(l.fields, '$.subject[${place}]') COLLATE utf8mb4_bin`;

/**
 * Names that stand next on a path of subjects in the latest versions somebody sees, in order. What it costs
 * grows with the documents on the path; at its beginning, with the names.
 */
export async function findSubjects(
  store: Store,
  libraryId: string,
  { actor, rules }: Sight,
  { names, after, limit }: { names: readonly string[]; after: string; limit: number },
): Promise<string[]> {
  const place = names.length;
  const latest = latestSeen(wantedOf(libraryId, actor, rules));
  const onPath = `JOIN newest_versions n ON n.document_id = s.document_id JOIN versions l ON l.id = n.version_id
    WHERE ${latest} AND ${beginsWithPath(names)}`;
  const found = await rows<{ name: string }>(
    store.db,
    // Of each first name one document is looked for; asked by EXISTS, all documents would be gone through.
    place === 0
      ? `SELECT first.name FROM (SELECT DISTINCT subject AS name FROM document_subjects
           WHERE library_id = :libraryId AND place = 0 AND subject > :after) first
         WHERE (SELECT 1 FROM document_subjects s ${onPath} AND s.library_id = :libraryId AND s.place = 0
           AND s.subject = first.name AND ${subjectAt(0)} = first.name LIMIT 1) = 1
         ORDER BY first.name LIMIT :limit`
      : `SELECT DISTINCT ${subjectAt(place)} AS name FROM document_subjects s ${onPath}
           AND s.library_id = :libraryId AND s.place = ${place - 1} AND s.subject = :path${place - 1}
           AND ${subjectAt(place)} > :after ORDER BY name LIMIT :limit`,
    { libraryId, viewer: actor.id, after, limit, ...pathGiven(names) },
  );
  return found.map(({ name }) => name);
}

const ownerFilter = (owner: string): Filter => ({
  condition: `EXISTS (SELECT 1 FROM documents d JOIN people p ON p.id = d.owner_id
    WHERE d.id = n.document_id AND p.account = :owner)`,
  source: `SELECT d.id FROM people p JOIN documents d ON d.library_id = :libraryId AND d.owner_id = p.id
    WHERE p.account = :owner`,
  exact: true,
  given: { owner },
});

function heldFilter(heldBy: string): Filter {
  if (heldBy === 'nobody') return { condition: `NOT ${isHeld('TRUE')}`, source: null, exact: false };
  if (heldBy === 'anyone') return held('TRUE');
  if (heldBy === 'me') return held('c.holder_id = :viewer');
  return held('c.holder_id = (SELECT id FROM people WHERE account = :holder)', { holder: heldBy });
}

const isHeld = (how: string): string =>
  `EXISTS (SELECT 1 FROM checkouts c WHERE c.document_id = n.document_id AND ${how})`;

const held = (how: string, given: Record<string, unknown> = {}): Filter => ({
  condition: isHeld(how),
  source: `SELECT d.id FROM checkouts c JOIN documents d ON d.id = c.document_id
    WHERE d.library_id = :libraryId AND ${how}`,
  exact: true,
  given,
});

/** The end of a check-out is told only to those who see its base. */
const overdueFilter = (sight: SeenVersions): Filter => ({
  condition: `EXISTS (SELECT 1 FROM checkouts c JOIN documents d ON d.id = c.document_id
    JOIN versions v ON v.id = c.base_id WHERE c.document_id = n.document_id AND c.until_at < :now AND ${sight.condition})`,
  source: `SELECT d.id FROM checkouts c JOIN documents d ON d.id = c.document_id
    WHERE d.library_id = :libraryId AND c.until_at < :now`,
  exact: sight.whole,
});

/** By when what is in force is to be reviewed is told to everybody who sees the document. */
function reviewFilter(review: NonNullable<DocumentQuery['review']>, now: Date): Filter {
  const isDue = `h.review_by ${review === 'passed' ? '<' : '<='} :reviewBy`;
  return {
    condition: `EXISTS (SELECT 1 FROM heads h WHERE h.document_id = n.document_id AND ${isDue})`,
    source: `SELECT h.document_id AS id FROM heads h WHERE h.library_id = :libraryId AND ${isDue}`,
    exact: true,
    given: { reviewBy: dayAfter(now, review === 'passed' ? 0 : reviewAhead) },
  };
}

/** The filter that lets the fewest documents through, where they are few; null where none does. */
async function narrowest({ store, filters, given }: Search, most: number): Promise<Narrow | null> {
  let fewest = most + 1;
  let narrow: Narrow | null = null;
  for (const filter of filters) {
    const { source } = filter;
    if (source === null) continue;
    const [found] = await rows<{ documents: number }>(
      store.db,
      `SELECT COUNT(*) AS documents FROM (${source} LIMIT :limit) few`,
      { ...given, limit: fewest },
    );
    const documents = Number(found?.documents ?? 0);
    if (documents < fewest) ({ fewest, narrow } = { fewest: documents, narrow: { ...filter, source } });
  }
  return narrow;
}
type Narrow = Filter & { source: string };

const keys = { number: 'n.number', title: 'n.title', changed: 'n.changed' } as const;

/** Behind which row the part begins, by the column that it is sorted by, and in which order it comes. */
function order(
  { query }: Search,
  key: string = keys[query.sort],
): { behind: string; by: string; given: Record<string, unknown> } {
  const byTime = query.sort === 'changed';
  const by = `ORDER BY sortKey ${byTime ? 'DESC' : 'ASC'}, number ASC`;
  const [afterKey, afterNumber] = readCursor(query.cursor, 2) ?? [];
  if (afterKey === undefined) return { behind: '', by, given: {} };
  const sign = byTime ? '<' : '>';
  return {
    behind: `AND ${key} ${sign}= :afterKey AND (${key} ${sign} :afterKey OR n.number > :afterNumber)`,
    by,
    given: { afterKey: byTime ? new Date(afterKey) : afterKey, afterNumber },
  };
}

const conditionsOf = (filters: readonly Filter[]): string =>
  filters.map(({ condition }) => `AND ${condition}`).join(' ');

/** Gathers all that a narrow filter may let through: read once, counted and cut into parts from there. */
async function gathered(search: Search, narrow: Narrow): Promise<RegisterPart> {
  const { store, wanted, query, filters, voided } = search;
  const left = filters.filter(({ source }) => !narrow.exact || source !== narrow.source);
  const { behind, by, given } = order(search, 'n.sortKey');
  // No more of a row than its place needs: all of them stand in a table of their own while they are counted.
  const counted = `SELECT n.document_id AS id, n.number, ${keys[query.sort]} AS sortKey, COUNT(*) OVER () AS total
    FROM (${narrow.source}) few JOIN ${voided ?? 'newest_versions'} n ON n.document_id = few.id
    WHERE ${voided ? 'TRUE' : latestSeen(wanted)} ${conditionsOf(left)}`;
  const found = await rows<Found & { total: number }>(
    store.db,
    `SELECT * FROM (${counted}) n WHERE TRUE ${behind} ${by} LIMIT :count`,
    { ...search.given, ...given, count: query.limit + 1 },
  );
  const [first] = found;
  // Behind the last row there is nothing to read the count from.
  if (!first && query.cursor) {
    const begun = await gathered({ ...search, query: { ...query, cursor: undefined } }, narrow);
    return { ids: [], next: null, total: begun.total, about: false };
  }
  return { ...partFrom(found, query.limit), total: Number(first?.total ?? 0), about: false };
}

/** Walks the list in its order: one range of an index for each group, until the part is full. */
async function walked(search: Search): Promise<RegisterPart> {
  const { store, wanted, query, filters } = search;
  const { behind, by, given } = order(search);
  const groups = await latestGroups(store.db, wanted);
  const key = keys[query.sort];
  const ranges = groups.map(
    (
      group,
    ) => `(SELECT n.document_id AS id, n.number, ${key} AS sortKey FROM newest_versions n FORCE INDEX (by_${query.sort})
      WHERE ${inGroup(wanted, group)} ${behind} ${conditionsOf(filters)} ${by} LIMIT :count)`,
  );
  const replacements = { ...search.given, ...given, count: query.limit + 1 };
  const found =
    ranges.length === 0
      ? []
      : await rows<Found>(store.db, `${ranges.join(' UNION ALL ')} ${by} LIMIT :count`, replacements);
  const part = partFrom(found, query.limit);
  const total = await countSeen(store.db, wanted);
  if (filters.length === 0) return { ...part, total, about: false };
  if (query.heldBy === 'nobody' && filters.length === 1) {
    return { ...part, total: total - (await countHeld(search)), about: false };
  }
  if (!query.cursor && !part.next) return { ...part, total: part.ids.length, about: false };
  return { ...part, total: await estimate(search, groups, { part, total }), about: true };
}

/** How many documents that are asked for somebody holds. */
async function countHeld({ store, wanted, given }: Search): Promise<number> {
  const [sum] = await rows<{ total: number }>(
    store.db,
    `SELECT COUNT(*) AS total FROM (${held('TRUE').source}) few JOIN newest_versions n ON n.document_id = few.id
     WHERE ${latestSeen(wanted)}`,
    given,
  );
  return Number(sum?.total ?? 0);
}

/**
 * About how many documents match, from how many were passed to fill this part: to two figures. Nothing hidden
 * weighs in it.
 */
async function estimate(
  search: Search,
  groups: readonly Group[],
  { part, total }: { part: Pick<RegisterPart, 'ids' | 'next'>; total: number },
): Promise<number> {
  const { store, wanted, query } = search;
  const { behind, given } = order(search);
  const key = keys[query.sort];
  const [lastKey] = readCursor(part.next ?? undefined, 2) ?? [];
  const until = lastKey === undefined ? '' : `AND ${key} ${query.sort === 'changed' ? '>=' : '<='} :lastKey`;
  const ranges = groups.map(
    (group) => `(SELECT COUNT(*) AS passed FROM newest_versions n FORCE INDEX (by_${query.sort})
      WHERE ${inGroup(wanted, group)} ${behind} ${until})`,
  );
  const replacements = {
    ...search.given,
    ...given,
    lastKey: query.sort === 'changed' && lastKey !== undefined ? new Date(lastKey) : lastKey,
  };
  const counts = await rows<{ passed: number }>(store.db, ranges.join(' UNION ALL '), replacements);
  const passed = counts.reduce((sum, one) => sum + Number(one.passed), 0);
  const likely = Math.max(part.ids.length, (total * part.ids.length) / Math.max(passed, 1));
  return Number(Math.min(total, likely).toPrecision(2));
}

const partFrom = (found: readonly Found[], limit: number): Pick<RegisterPart, 'ids' | 'next'> => {
  const { shown, next } = partOf(found, limit, cursorOf);
  return { ids: shown.map(({ id }) => id), next };
};

const cursorOf = ({ sortKey, number }: Found): string =>
  writeCursor([sortKey instanceof Date ? sortKey.toISOString() : String(sortKey), number]);
