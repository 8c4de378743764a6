import type { MessagePort } from 'node:worker_threads';
import type mariadb from 'mariadb';
import {
  type ApprovalMode, type ApprovalDecision, type RehearsedDocument, type RehearsedMember, type RehearsedVersion, type Rehearsal, Rehearsing, type Role, type Rulebook,
  type Standing, type State, type Numbering, waitingFor,
} from '@polychron/core';
import { openConnection } from '../store/database.ts';

/** What a rehearsal is given; dates as milliseconds, sets as lists, since it crosses to another thread. */
export interface RehearsalTask {
  databaseUrl: string; libraryId: string; before: Rulebook; after: Rulebook; now: number;
  wanted: { offset: number; limit: number; documents: string[] | null; sightOf: { account: string; change: 'gains' | 'losses' } | null };
  /** Told how many of how many versions are read. */
  port: MessagePort;
}

/** Versions between two reports of progress. */
const stride = 5_000;

/** Rehearses rules over a library as it is at one moment: one consistent reading, row by row, never the whole library in memory. */
export default async function rehearse({ databaseUrl, libraryId, before, after, now, wanted, port }: RehearsalTask): Promise<Rehearsal> {
  const connection = await openConnection(databaseUrl);
  try {
    await connection.query('SET TRANSACTION ISOLATION LEVEL REPEATABLE READ');
    await connection.query('START TRANSACTION WITH CONSISTENT SNAPSHOT, READ ONLY');
    const documents = await readDocuments(connection, libraryId);
    const total = [...documents.values()].reduce((sum, { expected }) => sum + expected, 0);
    const rehearsing = new Rehearsing(before, after, await readMembers(connection, libraryId), new Date(now),
      { ...wanted, documents: wanted.documents ? new Set(wanted.documents) : undefined, sightOf: wanted.sightOf ?? undefined });
    let current = '';
    let versions: RehearsedVersion[] = [];
    let done = 0;
    const finish = (): void => {
      const document = documents.get(current);
      if (document) rehearsing.document({ ...document.facts, versions });
      versions = [];
    };
    const rows = connection.queryStream({ sql: versionsSql, rowsAsArray: true, bigIntAsNumber: true }, [libraryId]);
    for await (const row of rows as AsyncIterable<VersionColumns>) {
      if (row[0] !== current) { finish(); current = row[0]; }
      versions.push(toVersion(row));
      done += 1;
      if (done % stride === 0) port.postMessage({ done, total });
    }
    finish();
    return rehearsing.result();
  } finally {
    await connection.end();
    port.close();
  }
}

type VersionColumns = [
  documentId: string, id: string, state: State, standing: Standing | null, madeAt: number, supersededAt: number | null, sheltered: number, thinned: number,
  era: number, major: number, minor: number, numbering: Numbering, authorId: string, size: number,
];
/** One pass over a library's versions, in the order of documents and of time. The benchmark holds the rehearsal against this very query. */
export const versionsSql = `SELECT v.document_id, v.id, v.state, v.standing, TIMESTAMPDIFF(MICROSECOND, '1970-01-01', v.at) DIV 1000,
    TIMESTAMPDIFF(MICROSECOND, '1970-01-01', v.superseded_at) DIV 1000, v.sheltered, v.thinned_at IS NOT NULL, v.era, v.major, v.minor, v.numbering, v.author_id, v.size
  FROM heads h STRAIGHT_JOIN versions v ON v.document_id = h.document_id WHERE h.library_id = ? ORDER BY h.document_id, v.sequence`;

function toVersion(row: VersionColumns): RehearsedVersion {
  return {
    id: row[1], state: row[2], standing: row[3], madeAt: row[4], supersededAt: row[5], sheltered: row[6] === 1, thinned: row[7] === 1,
    era: row[8], major: row[9], minor: row[10], numbering: row[11], authorId: row[12], size: row[13],
  };
}

interface DocumentRow {
  id: string; number: string; title: string | null; ownerId: string; coAuthorIds: string; approverIds: string; presentEra: number; major: number; minor: number;
  numbering: Numbering; expected: number; holderId: string | null; holderName: string | null; baseId: string | null; setAside: string | null;
}

async function readDocuments(connection: mariadb.Connection, libraryId: string): Promise<Map<string, { facts: Omit<RehearsedDocument, 'versions'>; expected: number }>> {
  const waiting = await readWaiting(connection, libraryId);
  const found = await connection.query<DocumentRow[]>(
    `SELECT d.id, d.number, JSON_VALUE(l.fields, '$.title') AS title, d.owner_id AS ownerId, d.co_author_ids AS coAuthorIds, d.approver_ids AS approverIds,
       h.present_era AS presentEra, h.highest_major AS major, h.highest_minor AS minor, l.numbering, h.last_sequence AS expected,
       c.holder_id AS holderId, p.name AS holderName, c.base_id AS baseId,
       (SELECT GROUP_CONCAT(f.base_id) FROM desk_files f WHERE f.document_id = d.id AND f.kind = 'setAside') AS setAside
     FROM heads h JOIN documents d ON d.id = h.document_id JOIN versions l ON l.id = h.latest_id
     LEFT JOIN checkouts c ON c.document_id = d.id LEFT JOIN people p ON p.id = c.holder_id WHERE h.library_id = ?`, [libraryId]);
  return new Map(found.map((row) => [row.id, {
    expected: row.expected,
    facts: {
      id: row.id, number: row.number, title: row.title ?? '', ownerId: row.ownerId, coAuthorIds: JSON.parse(row.coAuthorIds) as string[], approverIds: JSON.parse(row.approverIds) as string[],
      presentEra: row.presentEra, highest: { era: row.presentEra, major: row.major, minor: row.minor, numbering: row.numbering },
      custody: row.holderId && row.baseId ? { holderId: row.holderId, holderName: row.holderName ?? '', baseId: row.baseId } : null,
      setAsideBaseIds: row.setAside?.split(',') ?? [],
      waitingFor: waiting.get(row.id) ?? null,
    },
  }]));
}

async function readWaiting(connection: mariadb.Connection, libraryId: string): Promise<Map<string, string[]>> {
  const posts = await connection.query<{ documentId: string; mode: ApprovalMode; personId: string; name: string; decision: ApprovalDecision | null }[]>(
    `SELECT r.document_id AS documentId, r.mode, ap.person_id AS personId, p.name, ap.decision FROM approval_runs r JOIN heads h ON h.document_id = r.open_document_id
     JOIN approval_posts ap ON ap.run_id = r.id JOIN people p ON p.id = ap.person_id WHERE h.library_id = ? ORDER BY r.document_id, ap.position`, [libraryId]);
  const runs = new Map<string, typeof posts>();
  for (const post of posts) runs.set(post.documentId, [...runs.get(post.documentId) ?? [], post]);
  return new Map([...runs].map(([id, of]) => [id, waitingFor({ mode: of[0]?.mode ?? 'serial', posts: of.map((post) => ({ ...post, at: null, comment: '' })) }).map(({ name }) => name)]));
}

async function readMembers(connection: mariadb.Connection, libraryId: string): Promise<RehearsedMember[]> {
  const held = await connection.query<{ id: string; account: string; name: string; roles: string }[]>(
    `SELECT p.id, p.account, p.name, GROUP_CONCAT(h.role) AS roles FROM held_roles h JOIN people p ON p.id = h.person_id WHERE h.library_id = ? GROUP BY p.id`, [libraryId]);
  return held.map(({ roles, ...person }) => ({ ...person, roles: new Set(roles.split(',') as Role[]) }));
}
