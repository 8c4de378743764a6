import { rows } from './database.ts';
import type { Store } from './store.ts';

/** Something that happened to a version of a document. */
export interface Happened {
  at: Date;
  /** Tells it from others of the same moment. */
  place: string;
  what: 'inForce' | 'left' | 'decided';
  documentId: string;
  versionId: string;
  /** The version that was published of the one decided about, where another was. */
  publishedId: string | null;
  personId: string | null;
  decision: 'approve' | 'reject' | null;
  words: string | null;
}

const within = (moment: string): string => `${moment} > :from AND ${moment} <= :to`;
const nobody = 'NULL AS publishedId, NULL AS personId, NULL AS decision, NULL AS words';

const happened = `
  SELECT p.from_at AS at, CONCAT('b', p.id) AS place, 'inForce' AS what, p.document_id AS documentId,
    p.version_id AS versionId, ${nobody}
  FROM version_periods p
  WHERE p.library_id = :libraryId AND ${within('p.from_at')} AND p.standing = 'inForce'
    AND (p.until_at IS NULL OR p.until_at > p.from_at)
  UNION ALL
  SELECT p.from_at, CONCAT('a', p.id), 'left', p.document_id, p.version_id, ${nobody}
  FROM version_periods p JOIN version_periods b ON b.version_id = p.version_id AND b.until_at = p.from_at
    AND b.standing = 'inForce' AND b.from_at < b.until_at
  WHERE p.library_id = :libraryId AND ${within('p.from_at')} AND COALESCE(p.standing, '') <> 'inForce'
  UNION ALL
  SELECT s.decided_at, CONCAT('0', s.run_id, s.position), 'decided', r.document_id, r.version_id,
    (SELECT MAX(c.id) FROM versions c WHERE c.document_id = r.document_id AND c.origin_kind = 'publish'
       AND c.origin_from = r.version_id), s.person_id, s.decision, s.comment
  FROM approval_posts s JOIN approval_runs r ON r.id = s.run_id JOIN documents d ON d.id = r.document_id
  WHERE d.library_id = :libraryId AND ${within('s.decided_at')} AND s.decision IN ('approve', 'reject')`;

/** What happened in a library after one moment, until another, in order, from behind a place. */
export async function happenedIn(
  store: Store,
  libraryId: string,
  { from, to }: { from: Date; to: Date },
  part: { after: { at: Date; place: string } | null; count: number },
): Promise<Happened[]> {
  const { after, count } = part;
  return rows<Happened>(
    store.db,
    `SELECT * FROM (${happened}) h WHERE h.at >= :afterAt AND (h.at > :afterAt OR h.place > :afterPlace)
     ORDER BY h.at, h.place LIMIT :count`,
    { libraryId, from, to, afterAt: after?.at ?? from, afterPlace: after?.place ?? '', count },
  );
}

/** From when until when a version was in force; null: it still was at the moment asked for. */
export interface Reign {
  documentId: string;
  versionId: string;
  from: Date;
  until: Date | null;
}

/** When versions of documents were in force, until a moment, in order. */
export async function reignsOf(store: Store, documentIds: readonly string[], at: Date): Promise<Reign[]> {
  if (documentIds.length === 0) return [];
  const found = await rows<Reign>(
    store.db,
    `SELECT p.document_id AS documentId, p.version_id AS versionId, p.from_at AS \`from\`,
       IF(p.until_at > :at, NULL, p.until_at) AS until
     FROM version_periods p WHERE p.document_id IN (:documentIds) AND p.standing = 'inForce'
       AND p.from_at <= :at AND (p.until_at IS NULL OR p.until_at > p.from_at)
     ORDER BY p.document_id, p.from_at, p.id`,
    { documentIds, at },
  );
  // A version that was sheltered meanwhile was in force all the same.
  return found.reduce<Reign[]>((reigns, one) => {
    const last = reigns.at(-1);
    const goesOn =
      last?.versionId === one.versionId && last.until !== null && last.until.getTime() === one.from.getTime();
    return goesOn ? [...reigns.slice(0, -1), { ...last, until: one.until }] : [...reigns, one];
  }, []);
}
