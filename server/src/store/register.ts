import type { DocumentQuery } from '@polychron/contract';
import { likePattern, rows } from './database.ts';
import { partOf, readCursor, writeCursor } from './cursors.ts';
import { sightCondition } from './sight.ts';
import type { Store } from './store.ts';
import type { Sight } from './versions.ts';

interface Found {
  id: string;
  number: string;
  sortKey: string | Date;
}

/**
 * A part of a library's Register: ids in order, the cursor of the next part, and how many documents match in
 * all.
 */
export async function findRegister(
  store: Store,
  libraryId: string,
  { actor, rules }: Sight,
  asked: { query: DocumentQuery; now: Date },
): Promise<{ ids: string[]; next: string | null; total: number }> {
  const { query, now } = asked;
  const sight = sightCondition(actor, rules);
  const { conditions, replacements } = registerFilter(query, sight);
  const byTime = query.sort === 'changed';
  const sortKey = {
    number: 'd.number',
    title: ofLatest(sight, "JSON_VALUE(v.fields, '$.title')"),
    changed: ofLatest(sight, 'v.at'),
  }[query.sort];
  const from = `documents d LEFT JOIN checkouts c ON c.document_id = d.id WHERE d.library_id = :libraryId
    AND EXISTS (SELECT 1 FROM versions v WHERE v.document_id = d.id AND ${sight})
    ${conditions.map((condition) => `AND ${condition}`).join(' ')}`;
  const given = { ...replacements, libraryId, viewer: actor.id, now, count: query.limit + 1 };
  const [key, number] = readCursor(query.cursor, 2) ?? [];
  const later = byTime ? '<' : '>';
  const behind =
    key === undefined
      ? ''
      : `WHERE (sortKey ${later} :afterKey OR (sortKey = :afterKey AND number > :afterNumber))`;
  const afterKey = byTime && key !== undefined ? new Date(key) : key;
  const found = await rows<Found>(
    store.db,
    `SELECT * FROM (SELECT d.id, d.number, ${sortKey} AS sortKey FROM ${from}) listed ${behind}
     ORDER BY sortKey ${byTime ? 'DESC' : 'ASC'}, number ASC LIMIT :count`,
    { ...given, afterKey, afterNumber: number },
  );
  const [count] = await rows<{ total: number }>(store.db, `SELECT COUNT(*) AS total FROM ${from}`, given);
  const { shown, next } = partOf(found, query.limit, cursorOf);
  return { ids: shown.map(({ id }) => id), next, total: Number(count?.total ?? 0) };
}

const cursorOf = ({ sortKey, number }: Found): string =>
  writeCursor([sortKey instanceof Date ? sortKey.toISOString() : String(sortKey), number]);

/** A value of the latest version of `d` that is seen. */
const ofLatest = (sight: string, value: string): string =>
  `(SELECT ${value} FROM versions v WHERE v.document_id = d.id AND ${sight} ORDER BY v.sequence DESC LIMIT 1)`;

/**
 * Every filter speaks of versions the caller sees, and of custody as far as everyone who sees the document
 * may know it.
 */
function registerFilter(
  query: DocumentQuery,
  sight: string,
): { conditions: string[]; replacements: Record<string, unknown> } {
  const filters: [condition: string, replacements: Record<string, unknown>][] = [];
  const { q, state, subject, owner, heldBy } = query;
  if (q) {
    const words = `(JSON_VALUE(v.fields, '$.title') LIKE :like ESCAPE '|' OR v.comment LIKE :like ESCAPE '|')`;
    const inVersions = `EXISTS (SELECT 1 FROM versions v WHERE v.document_id = d.id AND ${sight} AND ${words})`;
    filters.push([`(d.number LIKE :like ESCAPE '|' OR ${inVersions})`, { like: likePattern(q) }]);
  }
  if (state) filters.push([ofLatest(sight, 'v.state = :state'), { state }]);
  if (subject) {
    const has = "JSON_CONTAINS(v.fields, JSON_QUOTE(:subject), '$.subject')";
    filters.push([ofLatest(sight, has), { subject }]);
  }
  if (owner) filters.push(['d.owner_id = (SELECT id FROM people WHERE account = :owner)', { owner }]);
  if (heldBy) filters.push(heldFilter(heldBy));
  if (query.overdue) {
    // The end of a check-out is told only to those who see its base.
    const seen = `EXISTS (SELECT 1 FROM versions v WHERE v.id = c.base_id AND ${sight})`;
    filters.push([`(c.until_at < :now AND ${seen})`, {}]);
  }
  return {
    conditions: filters.map(([condition]) => condition),
    replacements: Object.assign({}, ...filters.map(([, replacements]) => replacements)) as Record<
      string,
      unknown
    >,
  };
}

function heldFilter(heldBy: string): [string, Record<string, unknown>] {
  switch (heldBy) {
    case 'anyone':
      return ['c.document_id IS NOT NULL', {}];
    case 'nobody':
      return ['c.document_id IS NULL', {}];
    case 'me':
      return ['c.holder_id = :viewer', {}];
    default:
      return ['c.holder_id = (SELECT id FROM people WHERE account = :holder)', { holder: heldBy }];
  }
}
