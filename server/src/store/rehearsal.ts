import {
  type ApprovalDecision,
  type ApprovalMode,
  type Numbering,
  type RehearsedDocument,
  type RehearsedMember,
  type RehearsedVersion,
  type Role,
  type Standing,
  type State,
  waitingFor,
} from '@polychron/core';
import type mariadb from 'mariadb';
import { openConnection } from './database.ts';
import { nobodyNamed } from './named.ts';
import { isNotVoided } from './sight.ts';

/**
 * One pass over a library's versions, in the order of documents and of time. The benchmark holds the
 * rehearsal against this very query.
 */
export const versionsSql = `SELECT v.document_id, v.id, v.state, v.standing,
    TIMESTAMPDIFF(MICROSECOND, '1970-01-01', v.at) DIV 1000,
    TIMESTAMPDIFF(MICROSECOND, '1970-01-01', v.in_force_from) DIV 1000,
    TIMESTAMPDIFF(MICROSECOND, '1970-01-01', v.superseded_at) DIV 1000,
    v.sheltered, v.thinned_at IS NOT NULL, v.era, v.major, v.minor, v.numbering, v.author_id, v.size
  FROM heads h STRAIGHT_JOIN versions v ON v.document_id = h.document_id
  WHERE h.library_id = ? ORDER BY h.document_id, v.sequence`;

type VersionColumns = [
  documentId: string,
  id: string,
  state: State,
  standing: Standing | null,
  madeAt: number,
  inForceFrom: number | null,
  supersededAt: number | null,
  sheltered: number,
  thinned: number,
  era: number,
  major: number,
  minor: number,
  numbering: Numbering,
  authorId: string,
  size: number,
];

function toVersion(row: VersionColumns): RehearsedVersion {
  const [, id, state, standing, madeAt, inForceFrom, supersededAt, sheltered, thinned, ...rest] = row;
  const [era, major, minor, numbering, authorId, size] = rest;
  const wasPublished = state === 'published' || state === 'withdrawn';
  const publishedAt = numbering === 'stepped' ? madeAt : (inForceFrom ?? madeAt);
  return {
    id,
    state,
    standing,
    madeAt,
    publishedAt: wasPublished ? publishedAt : null,
    supersededAt,
    sheltered: sheltered === 1,
    thinned: thinned === 1,
    era,
    major,
    minor,
    numbering,
    authorId,
    size,
  };
}

type Facts = Omit<RehearsedDocument, 'versions'>;

/** A library as it is at one moment, read for a rehearsal: row by row, never the whole library in memory. */
export class LibraryReading {
  private constructor(
    private readonly connection: mariadb.Connection,
    private readonly libraryId: string,
    private readonly documents: ReadonlyMap<string, Facts>,
    /** The library's members, and how many versions will be read. */
    readonly about: { members: readonly RehearsedMember[]; total: number },
  ) {}

  /** Opens one consistent reading of a library, on a connection of its own; `close` it when done. */
  static async open(databaseUrl: string, libraryId: string): Promise<LibraryReading> {
    const connection = await openConnection(databaseUrl);
    try {
      await connection.query('SET TRANSACTION ISOLATION LEVEL REPEATABLE READ');
      await connection.query('START TRANSACTION WITH CONSISTENT SNAPSHOT, READ ONLY');
      const found = await readDocuments(connection, libraryId);
      const total = found.reduce((sum, { expected }) => sum + expected, 0);
      const documents = new Map(found.map(({ facts }) => [facts.id, facts]));
      const members = await readMembers(connection, libraryId);
      return new LibraryReading(connection, libraryId, documents, { members, total });
    } catch (error) {
      await connection.end();
      throw error;
    }
  }

  /** Every document that stands, with all its versions; `progress` is told how many versions were read. */
  async *read(progress: (done: number) => void): AsyncGenerator<RehearsedDocument> {
    let current = '';
    let versions: RehearsedVersion[] = [];
    let done = 0;
    const rows = this.connection.queryStream({ sql: versionsSql, rowsAsArray: true, bigIntAsNumber: true }, [
      this.libraryId,
    ]);
    for await (const row of rows as AsyncIterable<VersionColumns>) {
      const [documentId] = row;
      if (!this.documents.has(documentId)) continue;
      if (documentId !== current) {
        yield* this.whole(current, versions);
        current = documentId;
        versions = [];
      }
      versions.push(toVersion(row));
      done += 1;
      progress(done);
    }
    yield* this.whole(current, versions);
  }

  private *whole(id: string, versions: readonly RehearsedVersion[]): Generator<RehearsedDocument> {
    const facts = this.documents.get(id);
    if (facts) yield { ...facts, versions };
  }

  async close(): Promise<void> {
    await this.connection.end();
  }
}

interface DocumentColumns {
  id: string;
  number: string;
  title: string | null;
  ownerId: string;
  coAuthorIds: string;
  circle: string | null;
  approverIds: string;
  presentEra: number;
  major: number;
  minor: number;
  numbering: Numbering;
  expected: number;
  holderId: string | null;
  holderName: string | null;
  baseId: string | null;
  setAside: string | null;
}

async function readDocuments(
  connection: mariadb.Connection,
  libraryId: string,
): Promise<{ facts: Facts; expected: number }[]> {
  const waiting = await readWaiting(connection, libraryId);
  const found = await connection.query<DocumentColumns[]>(
    `SELECT d.id, d.number, JSON_VALUE(l.fields, '$.title') AS title, d.owner_id AS ownerId,
       d.co_author_ids AS coAuthorIds,
       IF(d.limited, (SELECT COALESCE(GROUP_CONCAT(k.person_id), '') FROM circles k WHERE k.document_id = d.id), NULL) AS circle,
       d.approver_ids AS approverIds, h.present_era AS presentEra,
       h.highest_major AS major, h.highest_minor AS minor, l.numbering, h.last_sequence AS expected,
       c.holder_id AS holderId, p.name AS holderName, c.base_id AS baseId,
       (SELECT GROUP_CONCAT(f.base_id) FROM desk_files f WHERE f.document_id = d.id AND f.kind = 'setAside') AS setAside
     FROM heads h JOIN documents d ON d.id = h.document_id JOIN versions l ON l.id = h.latest_id
     LEFT JOIN checkouts c ON c.document_id = d.id LEFT JOIN people p ON p.id = c.holder_id
     WHERE h.library_id = ? AND ${isNotVoided}`,
    [libraryId],
  );
  return found.map((row) => ({ expected: row.expected, facts: toFacts(row, waiting) }));
}

function toFacts(row: DocumentColumns, waiting: ReadonlyMap<string, string[]>): Facts {
  const { id, number, ownerId, presentEra, major, minor, numbering, holderId, holderName, baseId } = row;
  return {
    id,
    number,
    title: row.title ?? '',
    ownerId,
    coAuthorIds: JSON.parse(row.coAuthorIds) as string[],
    limit: row.circle === null ? null : { ...nobodyNamed, memberIds: row.circle.split(',') },
    approverIds: JSON.parse(row.approverIds) as string[],
    presentEra,
    highest: { era: presentEra, major, minor, numbering },
    custody: holderId && baseId ? { holderId, holderName: holderName ?? '', baseId } : null,
    setAsideBaseIds: row.setAside?.split(',') ?? [],
    waitingFor: waiting.get(id) ?? null,
  };
}

/** Names that open runs wait for, by document. */
async function readWaiting(
  connection: mariadb.Connection,
  libraryId: string,
): Promise<Map<string, string[]>> {
  const posts = await connection.query<
    {
      documentId: string;
      mode: ApprovalMode;
      personId: string;
      name: string;
      decision: ApprovalDecision | null;
    }[]
  >(
    `SELECT r.document_id AS documentId, r.mode, ap.person_id AS personId, p.name, ap.decision
     FROM approval_runs r JOIN heads h ON h.document_id = r.open_document_id
     JOIN approval_posts ap ON ap.run_id = r.id JOIN people p ON p.id = ap.person_id
     WHERE h.library_id = ? ORDER BY r.document_id, ap.position`,
    [libraryId],
  );
  const runs = new Map<string, typeof posts>();
  for (const post of posts) runs.set(post.documentId, [...(runs.get(post.documentId) ?? []), post]);
  return new Map(
    [...runs].map(([id, of]) => {
      const run = { mode: of[0]?.mode ?? 'serial', posts: of };
      return [id, waitingFor(run).map(({ name }) => name)];
    }),
  );
}

async function readMembers(connection: mariadb.Connection, libraryId: string): Promise<RehearsedMember[]> {
  const held = await connection.query<{ id: string; account: string; name: string; roles: string }[]>(
    `SELECT p.id, p.account, p.name, GROUP_CONCAT(h.role) AS roles FROM held_roles h
     JOIN people p ON p.id = h.person_id WHERE h.library_id = ? GROUP BY p.id`,
    [libraryId],
  );
  return held.map(({ roles, ...person }) => ({ ...person, roles: new Set(roles.split(',') as Role[]) }));
}
