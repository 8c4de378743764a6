import type { openConnection } from '@polychron/server';

type Connection = Awaited<ReturnType<typeof openConnection>>;
type Row = Record<string, unknown>;

/** Rows of one list by bare SQL: which, in which order, and how many there are. */
export interface Bare {
  /** What stands behind FROM and WHERE; the rows are those of `n`, `newest_versions`. */
  from: string;
  order: string;
  given: unknown[];
}

/** Documents a page shows. */
export const pageSize = 50;
/** Points of the small Strand. */
const points = 30;

/**
 * What a Register's page shows, by bare SQL over indexes: the rows, how many, their facts, their newest
 * versions.
 */
export async function barePage(db: Connection, { from, order, given }: Bare): Promise<void> {
  const rows = await db.query<{ id: string }[]>(
    `SELECT n.document_id AS id FROM ${from} ORDER BY ${order} LIMIT ${pageSize}`,
    given,
  );
  await db.query(`SELECT COUNT(*) AS documents FROM ${from}`, given);
  await bareDocuments(
    db,
    rows.map(({ id }) => id),
  );
}

/** What a list shows of documents. */
export async function bareDocuments(db: Connection, ids: readonly string[]): Promise<void> {
  if (ids.length === 0) return;
  const places = ids.map(() => '?').join();
  const plain = (sql: string): Promise<Row[]> => db.query<Row[]>({ sql, rowsAsArray: true }, [...ids]);
  await plain(
    `SELECT d.*, h.*, l.*, f.*, c.*, p.name, a.name FROM documents d JOIN heads h ON h.document_id = d.id
     JOIN versions l ON l.id = h.latest_id LEFT JOIN versions f ON f.id = h.in_force_id
     LEFT JOIN checkouts c ON c.document_id = d.id JOIN people p ON p.id = d.owner_id JOIN people a ON a.id = l.author_id
     WHERE d.id IN (${places})`,
  );
  await plain(
    `SELECT * FROM (SELECT v.*, ROW_NUMBER() OVER (PARTITION BY document_id ORDER BY sequence DESC) AS place
       FROM versions v WHERE document_id IN (${places})) newest WHERE place <= ${points}`,
  );
}

/**
 * Whose newest versions a viewer mostly reads: of which kind, below which later ones
 * (server/src/store/sight.ts).
 */
export interface Mostly {
  kind: number;
  later: number;
}

/** The questions of the Register, each with what answers it in bare SQL. */
export function registerQuestions(
  libraryId: string,
  mostly: Mostly,
): Record<string, { query: string; bare: Bare }> {
  const whose = `n.library_id = ? AND n.person_id = '' AND n.kind = ${mostly.kind} AND n.later = ${mostly.later} AND n.later_own = 0`;
  const list = (order: string, more = ''): Bare => ({
    from: `newest_versions n WHERE ${whose} ${more}`,
    order,
    given: [libraryId],
  });
  const joined = (source: string, ...given: unknown[]): Bare => ({
    from: `(${source}) few STRAIGHT_JOIN newest_versions n ON n.document_id = few.id WHERE ${whose}`,
    order: 'n.number',
    given: [...given, libraryId],
  });
  const words = (word: string): Bare =>
    joined(
      'SELECT DISTINCT document_id AS id FROM document_words WHERE library_id = ? AND word LIKE ?',
      libraryId,
      `${word}%`,
    );
  const cursor = Buffer.from(JSON.stringify(['SC-050000', 'SC-050000'])).toString('base64url');
  const held =
    'SELECT c.document_id AS id FROM checkouts c JOIN documents d ON d.id = c.document_id WHERE d.library_id = ?';
  return {
    'first page': { query: '', bare: list('n.number') },
    'page 1,000': { query: `cursor=${cursor}`, bare: list('n.number', "AND n.number > 'SC-050000'") },
    'sorted by title': { query: 'sort=title', bare: list('n.title, n.number') },
    'sorted by change': { query: 'sort=changed', bare: list('n.changed DESC, n.number') },
    'held by anyone': { query: 'heldBy=anyone', bare: joined(held, libraryId) },
    'held by nobody': {
      query: 'heldBy=nobody',
      bare: list(
        'n.number',
        'AND NOT EXISTS (SELECT 1 FROM checkouts c WHERE c.document_id = n.document_id)',
      ),
    },
    'held by one': {
      query: 'heldBy=owner2-3',
      bare: joined(`${held} AND c.holder_id = (SELECT id FROM people WHERE account = 'owner2-3')`, libraryId),
    },
    overdue: { query: 'overdue=true', bare: joined(`${held} AND c.until_at < NOW()`, libraryId) },
    'due for review': {
      query: 'review=passed',
      bare: joined(
        'SELECT document_id AS id FROM heads WHERE library_id = ? AND review_by < NOW()',
        libraryId,
      ),
    },
    'of one owner': {
      query: 'owner=owner2-5',
      bare: joined(
        `SELECT id FROM documents WHERE library_id = ? AND owner_id = (SELECT id FROM people WHERE account = 'owner2-5')`,
        libraryId,
      ),
    },
    'of one subject': {
      query: 'subject=Line%207',
      bare: joined(
        "SELECT document_id AS id FROM document_subjects WHERE library_id = ? AND subject = 'Line 7'",
        libraryId,
      ),
    },
    'a word in the title': { query: 'q=77777', bare: words('77777') },
    'a word in the number': { query: 'q=SC-077', bare: words('sc-077') },
    'a word in comments': { query: 'q=976', bare: words('976') },
    'a word of all documents': { query: 'q=inspection', bare: words('inspection') },
  };
}
