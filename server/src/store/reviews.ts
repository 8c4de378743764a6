import type { ReviewOutcome } from '@polychron/core';
import { rows, run, type Tx } from './database.ts';
import type { PersonName } from './people.ts';
import { isNotVoided } from './sight.ts';
import type { Store } from './store.ts';

/** A review of a version. */
export interface KeptReview extends PersonName {
  versionId: string;
  at: Date;
  outcome: ReviewOutcome;
  comment: string;
  /** An ISO 8601 calendar date; null: by no date. */
  nextBy: string | null;
}

/** Keeps a review of a version. */
export async function insertReview(
  store: Store,
  review: { documentId: string; personId: string | null } & Omit<KeptReview, keyof PersonName>,
  tx: Tx,
): Promise<void> {
  await run(
    store.db,
    `INSERT INTO reviews (document_id, version_id, person_id, at, outcome, comment, next_by)
     VALUES (:documentId, :versionId, :personId, :at, :outcome, :comment, :nextBy)`,
    { ...review },
    tx,
  );
}

/**
 * By when what is in force is to be reviewed: what its last confirmation says, else its review date. Over
 * versions `v`.
 */
const reviewBy = `IF(EXISTS (SELECT 1 FROM reviews r WHERE r.version_id = v.id AND r.outcome = 'confirmed'),
  (SELECT r.next_by FROM reviews r WHERE r.version_id = v.id AND r.outcome = 'confirmed'
   ORDER BY r.at DESC, r.id DESC LIMIT 1),
  JSON_VALUE(v.fields, '$.reviewBy'))`;

/** Keeps by when a document is to be reviewed, after what is in force changed or was reviewed. */
export async function keepReviewBy(store: Store, documentId: string, tx: Tx): Promise<void> {
  await run(
    store.db,
    `UPDATE heads h LEFT JOIN versions v ON v.id = h.in_force_id SET h.review_by = ${reviewBy}
     WHERE h.document_id = :documentId`,
    { documentId },
    tx,
  );
}

/** The last review of each of these versions; by a moment, or the last that confirmed it, where asked. */
export async function lastReviews(
  store: Store,
  versionIds: readonly string[],
  { by = null, outcome = null }: { by?: Date | null; outcome?: ReviewOutcome | null } = {},
): Promise<Map<string, KeptReview>> {
  if (versionIds.length === 0) return new Map();
  const found = await rows<KeptReview>(
    store.db,
    `SELECT r.version_id AS versionId, r.at, r.outcome, r.comment,
       DATE_FORMAT(r.next_by, '%Y-%m-%d') AS nextBy, w.account, w.name
     FROM reviews r JOIN people w ON w.id = r.person_id
     WHERE r.version_id IN (:versionIds) AND r.at <= COALESCE(:by, r.at)
       AND r.outcome = COALESCE(:outcome, r.outcome) ORDER BY r.at, r.id`,
    { versionIds: [...versionIds], by, outcome },
  );
  return new Map(found.map((review) => [review.versionId, review]));
}

/** A document that is to be reviewed. */
export interface ReviewDue {
  documentId: string;
  libraryId: string;
  ownerId: string;
  reviewBy: string;
}

const due = `SELECT h.document_id AS documentId, h.library_id AS libraryId, d.owner_id AS ownerId,
    DATE_FORMAT(h.review_by, '%Y-%m-%d') AS reviewBy
  FROM heads h JOIN documents d ON d.id = h.document_id
  JOIN libraries l ON l.id = h.library_id AND l.closed_at IS NULL AND ${isNotVoided}`;

/**
 * Documents of a person that are to be reviewed by a day, the soonest first; and those past their date in
 * libraries they look after.
 */
export async function reviewsDueFor(
  store: Store,
  { personId, libraryIds }: { personId: string; libraryIds: readonly string[] },
  { soon, today, count }: { soon: string; today: string; count: number },
): Promise<ReviewDue[]> {
  // No more of each than are shown: a library may be past its dates as a whole.
  const first = 'ORDER BY h.review_by, h.document_id LIMIT :count';
  const own = `(${due} WHERE d.owner_id = :personId AND h.review_by <= :soon ${first})`;
  const others = `(${due} WHERE h.library_id IN (:libraryIds) AND h.review_by < :today ${first})`;
  const both = libraryIds.length === 0 ? own : `${own} UNION ${others}`;
  return rows<ReviewDue>(
    store.db,
    `SELECT * FROM (${both}) both_lists ORDER BY reviewBy, documentId LIMIT :count`,
    { personId, libraryIds: [...libraryIds], soon, today, count },
  );
}

/** Documents to be reviewed by a day whose owners were not told of that date yet. */
export async function reviewsUntold(store: Store, soon: string, count: number): Promise<ReviewDue[]> {
  return rows<ReviewDue>(
    store.db,
    `${due} WHERE h.review_by <= :soon AND NOT EXISTS (SELECT 1 FROM notices n WHERE n.person_id = d.owner_id
       AND n.about = CONVERT(CONCAT('review:', h.document_id, ':', h.review_by) USING ascii))
     ORDER BY h.review_by LIMIT :count`,
    { soon, count },
  );
}
