import {
  reach,
  type Rulebook,
  sightClasses,
  type SightClass,
  soughtWords,
  type State,
  type Viewer,
} from '@polychron/core';
import { likeBeginning, rows } from './database.ts';
import { covering, heldAt } from './periods.ts';
import { seesLimited, sightWithVoided } from './sight.ts';
import type { Store } from './store.ts';

/** Somebody under the rules of a moment. */
interface Looking {
  viewer: Viewer;
  rules: Rulebook;
}

/** Which documents of a library are looked for as they were at a moment. */
export interface SoughtThen {
  at: Date;
  /** Whoever looks, with their roles, and the rules, then and now. */
  then: Looking;
  now: Looking;
  /** Only those with a version in force then. */
  inForce?: boolean;
  /** Only those with a version in this state then. */
  state?: State | undefined;
  /** Beginnings of words, in any version. */
  q?: string | undefined;
  /** A subject of any version. */
  subject?: string | undefined;
  /** An account. */
  owner?: string | undefined;
  /** Only those that were void then, which are left out otherwise. */
  voided?: boolean | undefined;
  /** Only those that somebody held then. */
  held?: boolean;
}

/** Whether a version stood then as one of these kinds do, over periods `p`. */
function stoodAs(kinds: readonly SightClass[]): string {
  const quoted = kinds.map((kind) => `'${kind}'`).join();
  return kinds.length === 0 ? 'FALSE' : `(p.standing IN (${quoted}) OR p.state IN (${quoted}))`;
}

/** Whether somebody belonged to the team of a version `v` of a document `d` then. */
const inTeamThen = `(v.author_id = :viewer
  OR EXISTS (SELECT 1 FROM team_periods t WHERE t.document_id = d.id AND ${covering('t')}
    AND (t.owner_id = :viewer OR t.co_author_ids LIKE CONCAT('%"', :viewer, '"%')))
  OR EXISTS (SELECT 1 FROM custody_periods h WHERE h.document_id = d.id AND h.holder_id = :viewer
    AND ${heldAt('h')}))`;

/** Whether somebody saw a version then that stood as `p` says. */
function seenThen({ viewer, rules }: Looking): string {
  const extents = reach(viewer.roles, rules);
  const reaching = (extent: 'all' | 'team'): string =>
    stoodAs(sightClasses.filter((kind) => extents[kind] === extent));
  const seen = `(${reaching('all')} OR (${reaching('team')} AND ${inTeamThen}))`;
  return seesLimited(viewer) ? seen : `(${seen} AND ${isInCircleThen})`;
}

/** Whether a document `d` was there for somebody then, where it was kept to some. */
const isInCircleThen = `NOT EXISTS (SELECT 1 FROM team_periods t WHERE t.document_id = d.id AND ${covering('t')}
  AND t.circle IS NOT NULL AND t.circle NOT LIKE CONCAT('%"', :viewer, '"%'))`;

/** Whether a document `d` was no voided one then. */
const stoodThen = `EXISTS (SELECT 1 FROM team_periods t WHERE t.document_id = d.id AND ${covering('t')}
  AND t.voided_at IS NULL)`;

/** What narrows the documents that are looked through, over documents `d` and check-outs `c`. */
function narrowing(sought: SoughtThen, words: readonly string[]): string[] {
  const { then, now, inForce, state, subject, owner, held, voided } = sought;
  const stood = [
    seenThen(then),
    sightWithVoided(now.viewer, now.rules),
    ...(inForce ? ["p.standing = 'inForce'"] : []),
    ...(state ? ['p.state = :state'] : []),
  ];
  return [
    voided ? `NOT ${stoodThen}` : stoodThen,
    `EXISTS (SELECT 1 FROM version_periods p JOIN versions v ON v.id = p.version_id
       WHERE p.document_id = d.id AND ${covering('p')} AND ${stood.join(' AND ')})`,
    ...words.map(
      (_, place) => `d.id IN (SELECT w.document_id FROM document_words w
        WHERE w.library_id = :libraryId AND w.word LIKE :word${place} ESCAPE '|')`,
    ),
    ...(subject === undefined
      ? []
      : [
          `d.id IN (SELECT s.document_id FROM document_subjects s
             WHERE s.library_id = :libraryId AND s.subject = :subject)`,
        ]),
    ...(owner === undefined
      ? []
      : [
          `EXISTS (SELECT 1 FROM team_periods t JOIN people w ON w.id = t.owner_id
             WHERE t.document_id = d.id AND ${covering('t')} AND w.account = :owner)`,
        ]),
    ...(held
      ? [
          `EXISTS (SELECT 1 FROM custody_periods h WHERE h.document_id = d.id
             AND ${heldAt('h')})`,
        ]
      : []),
  ];
}

/**
 * Documents of which somebody saw a version at a moment that they may see now, and that may be meant, by
 * number, from behind one. What is meant narrows what is looked through; whether a version that they see has
 * it is for the caller to find out.
 */
export async function documentsThen(
  store: Store,
  libraryId: string,
  sought: SoughtThen,
  part: { after: string; count: number },
): Promise<{ id: string; number: string }[]> {
  const { at, then, state, q, subject, owner } = sought;
  const words = q === undefined ? [] : soughtWords(q);
  return rows(
    store.db,
    `SELECT d.id, d.number FROM documents d LEFT JOIN checkouts c ON c.document_id = d.id
     WHERE d.library_id = :libraryId AND d.created_at <= :at AND d.number > :after
       AND ${narrowing(sought, words).join(' AND ')}
     ORDER BY d.number LIMIT :count`,
    {
      libraryId,
      at,
      viewer: then.viewer.id,
      state: state ?? '',
      subject: subject ?? '',
      owner: owner ?? '',
      ...Object.fromEntries(words.map((word, place) => [`word${place}`, likeBeginning(word)])),
      ...part,
    },
  );
}

/** The documents that have every word among these versions: each begins a word of one of them. */
export async function documentsWithWords(
  store: Store,
  versionIds: readonly string[],
  q: string,
): Promise<Set<string>> {
  const words = soughtWords(q);
  if (words.length === 0 || versionIds.length === 0) return new Set();
  const has = words.map((_, place) => `MAX(v.found_by LIKE :like${place} ESCAPE '|') = 1`);
  const found = await rows<{ id: string }>(
    store.db,
    `SELECT v.document_id AS id FROM versions v WHERE v.id IN (:versionIds)
     GROUP BY v.document_id HAVING ${has.join(' AND ')}`,
    {
      versionIds,
      ...Object.fromEntries(words.map((word, place) => [`like${place}`, `% ${likeBeginning(word)}`])),
    },
  );
  return new Set(found.map(({ id }) => id));
}
