import { type Database, rows, run, type Tx } from './database.ts';
import { parseJson } from './models.ts';
import { ofLimited, teamKinds } from './sight.ts';

/**
 * The newest version of one kind of a document: for everybody who sees such, or for one person of the team.
 */
export interface Newest {
  /** Empty for what is seen by role. */
  personId: string;
  kind: number;
  versionId: string;
  sequence: number;
  /** Kinds whose newest version is newer than this one. */
  later: number;
  /** The same among what is the person's own. */
  laterOwn: number;
  title: string;
  changed: Date;
}

/** The newest version of one kind by one author. */
export interface NewestByAuthor {
  kind: number;
  authorId: string;
  id: string;
  sequence: number;
  title: string;
  at: Date;
}

/** Who belongs to a document's team whoever wrote its versions, and what is in force. */
export interface Team {
  /** Owner, co-authors, and who holds it. */
  personIds: readonly string[];
  inForceId: string | null;
  /** Whom the document is kept to; null: to nobody in particular. */
  circle: readonly string[] | null;
}

/**
 * The newest version of each kind of a document, for everybody and for each of its team. What is older than
 * the version in force heads nothing for anybody, since every member who sees the document sees that one. Of
 * a limited document all kinds are of limited ones, which nobody sees by role but who sees every document:
 * those it is kept to have them among their own.
 */
export function newestOf(
  versions: readonly NewestByAuthor[],
  { personIds, inForceId, circle }: Team,
): Newest[] {
  const floor = versions.find(({ id }) => id === inForceId)?.sequence ?? 0;
  const present = versions.filter(({ sequence }) => sequence >= floor);
  const byRole = circle ? present.map((one) => ({ ...one, kind: ofLimited(one.kind) })) : present;
  const all = newestEach(byRole);
  const ofTeam = present.filter(({ kind }) => (kind & teamKinds) !== 0);
  const people = circle ?? new Set([...personIds, ...ofTeam.map(({ authorId }) => authorId)]);
  const later = (list: readonly NewestByAuthor[], sequence: number): number =>
    list.reduce((kinds, one) => (one.sequence > sequence ? (kinds | one.kind) >>> 0 : kinds), 0);
  const lines = (personId: string, own: readonly NewestByAuthor[]): Newest[] =>
    own.map(({ kind, id: versionId, sequence, title, at: changed }) => ({
      personId,
      kind,
      versionId,
      sequence,
      later: later(all, sequence),
      laterOwn: personId === '' ? 0 : later(own, sequence),
      title,
      changed,
    }));
  return [
    ...lines('', all),
    ...[...people].flatMap((personId) => {
      const whole = personIds.includes(personId);
      const own = ofTeam.filter((one) => whole || one.authorId === personId);
      return lines(personId, newestEach(circle ? [...byRole, ...own] : own));
    }),
  ];
}

/** The newest of each kind. */
function newestEach(versions: readonly NewestByAuthor[]): NewestByAuthor[] {
  const newest = new Map<number, NewestByAuthor>();
  for (const one of versions) {
    if (one.sequence > (newest.get(one.kind)?.sequence ?? 0)) newest.set(one.kind, one);
  }
  return [...newest.values()];
}

interface Facts {
  documentId: string;
  libraryId: string;
  number: string;
  ownerId: string;
  coAuthorIds: string;
  holderId: string | null;
  inForceId: string | null;
  limited: number;
  voided: number;
}
type OfDocument<T> = T & { documentId: string };

/** Keeps the newest versions of documents after anything changed that they are told by. */
export async function keepNewest(db: Database, documentIds: readonly string[], tx?: Tx): Promise<void> {
  if (documentIds.length === 0) return;
  const given = { documentIds: [...documentIds] };
  const facts = await rows<Facts>(
    db,
    `SELECT d.id AS documentId, d.library_id AS libraryId, d.number, d.owner_id AS ownerId,
       d.co_author_ids AS coAuthorIds, c.holder_id AS holderId, h.in_force_id AS inForceId, d.limited,
       d.voided_at IS NOT NULL AS voided
     FROM documents d JOIN heads h ON h.document_id = d.id LEFT JOIN checkouts c ON c.document_id = d.id
     WHERE d.id IN (:documentIds)`,
    given,
    tx,
  );
  // Only the ends of an index are read: a long history costs no more than a short one.
  const versions = await rows<OfDocument<NewestByAuthor>>(
    db,
    `SELECT m.document_id AS documentId, m.kind, m.author_id AS authorId, m.sequence, v.id, v.at,
       JSON_VALUE(v.fields, '$.title') AS title
     FROM (SELECT document_id, kind, author_id, MAX(sequence) AS sequence FROM versions
       WHERE document_id IN (:documentIds) GROUP BY document_id, kind, author_id) m
     JOIN versions v ON v.document_id = m.document_id AND v.sequence = m.sequence`,
    given,
    tx,
  );
  const kept = await rows<OfDocument<Newest>>(
    db,
    `SELECT document_id AS documentId, person_id AS personId, kind, version_id AS versionId, sequence, later,
       later_own AS laterOwn, title, changed
     FROM newest_versions WHERE document_id IN (:documentIds)`,
    given,
    tx,
  );
  const [versionsOf, keptOf] = [byDocument(versions), byDocument(kept)];
  const circleOf = await circlesOf(
    db,
    facts.filter(({ limited }) => limited),
    tx,
  );
  const changes = facts.map((fact) =>
    changesOf(fact, { versions: versionsOf(fact), before: keptOf(fact), circle: circleOf(fact) }),
  );
  await write(db, changes, tx);
}

/** Whom limited documents are kept to; null for others. */
async function circlesOf(
  db: Database,
  limited: readonly Facts[],
  tx?: Tx,
): Promise<(fact: Facts) => string[] | null> {
  if (limited.length === 0) return () => null;
  const found = await rows<{ documentId: string; personId: string }>(
    db,
    'SELECT document_id AS documentId, person_id AS personId FROM circles WHERE document_id IN (:documentIds)',
    { documentIds: limited.map(({ documentId }) => documentId) },
    tx,
  );
  const of = byDocument(found);
  return (fact) => (fact.limited ? of(fact).map(({ personId }) => personId) : null);
}

/** Rows by the document they belong to. */
function byDocument<T>(list: readonly OfDocument<T>[]): (fact: Facts) => OfDocument<T>[] {
  const rows = new Map<string, OfDocument<T>[]>();
  for (const one of list) {
    const known = rows.get(one.documentId);
    if (known) known.push(one);
    else rows.set(one.documentId, [one]);
  }
  return ({ documentId }) => rows.get(documentId) ?? [];
}

/** What is to be written of one document's newest versions. */
interface Changes {
  fact: Facts;
  before: readonly Newest[];
  gone: readonly Newest[];
  come: readonly Newest[];
  after: readonly Newest[];
}

function changesOf(
  fact: Facts,
  {
    versions,
    before,
    circle,
  }: { versions: readonly NewestByAuthor[]; before: readonly Newest[]; circle: string[] | null },
): Changes {
  const { ownerId, coAuthorIds, holderId, inForceId, voided } = fact;
  const named = [ownerId, ...parseJson<string[]>(coAuthorIds), holderId];
  // Nothing heads a voided document in any list.
  const after = newestOf(voided ? [] : versions, {
    personIds: named.filter((id) => id !== null),
    inForceId,
    circle,
  });
  const known = new Map(before.map((one) => [keyOf(one), one]));
  const stay = new Set(after.map(keyOf));
  return {
    fact,
    before,
    after,
    gone: before.filter((one) => !stay.has(keyOf(one))),
    come: after.filter((one) => !isSame(known.get(keyOf(one)), one)),
  };
}

const keyOf = ({ personId, kind }: Newest): string => `${personId} ${kind}`;

const isSame = (known: Newest | undefined, one: Newest): boolean =>
  known?.versionId === one.versionId && known.later === one.later && known.laterOwn === one.laterOwn;

async function write(db: Database, changes: readonly Changes[], tx?: Tx): Promise<void> {
  const gone = changes.flatMap(({ fact, gone: list }) =>
    list.map(({ personId, kind }) => [fact.documentId, personId, kind]),
  );
  if (gone.length > 0) {
    await run(
      db,
      'DELETE FROM newest_versions WHERE document_id IN (:ids) AND (document_id, person_id, kind) IN (:gone)',
      { gone, ids: [...new Set(gone.map(([documentId]) => documentId))] },
      tx,
    );
  }
  const come = changes.flatMap(({ fact: { documentId, libraryId, number }, come: list }) =>
    list.map((one) => [
      ...[documentId, one.personId, one.kind, libraryId, one.versionId, one.sequence],
      ...[one.later, one.laterOwn, number, one.title, one.changed],
    ]),
  );
  if (come.length > 0) {
    await run(
      db,
      `INSERT INTO newest_versions (document_id, person_id, kind, library_id, version_id, sequence, later, later_own,
         number, title, changed) VALUES :come
       ON DUPLICATE KEY UPDATE version_id = VALUES(version_id), sequence = VALUES(sequence), later = VALUES(later),
         later_own = VALUES(later_own), title = VALUES(title), changed = VALUES(changed)`,
      { come },
      tx,
    );
  }
  await addCounts(db, changes, tx);
}

/**
 * Counts how many documents of a library have a newest version of each kind, by the kinds that came later.
 */
async function addCounts(db: Database, changes: readonly Changes[], tx?: Tx): Promise<void> {
  const sums = new Map<string, { row: [string, number, number]; sum: number }>();
  for (const { fact, before, after } of changes) {
    for (const [list, by] of [
      [before, -1],
      [after, 1],
    ] as const) {
      for (const { personId, kind, later } of list) {
        if (personId !== '') continue;
        const key = `${fact.libraryId} ${kind} ${later}`;
        const known = sums.get(key) ?? { row: [fact.libraryId, kind, later], sum: 0 };
        sums.set(key, { ...known, sum: known.sum + by });
      }
    }
  }
  // In one order, so that two acts do not wait for each other.
  const changed = [...sums.entries()].filter(([, { sum }]) => sum !== 0).sort(([a], [b]) => (a < b ? -1 : 1));
  if (changed.length === 0) return;
  const counts = changed.map(([, { row, sum }]) => [...row, sum]);
  await run(
    db,
    `INSERT INTO newest_counts (library_id, kind, later, count) VALUES :counts
     ON DUPLICATE KEY UPDATE count = count + VALUES(count)`,
    { counts },
    tx,
  );
}

/** Which of a library's documents have their newest version of a kind below the same later kinds. */
export interface Group {
  personId: string;
  kind: number;
  later: number;
  laterOwn: number;
  documents: number;
}

/** Groups of what is seen by role; a few, however many documents there are. */
export async function groupsOf(db: Database, libraryId: string): Promise<Group[]> {
  const found = await rows<Omit<Group, 'personId' | 'laterOwn'>>(
    db,
    'SELECT kind, later, count AS documents FROM newest_counts WHERE library_id = :libraryId AND count > 0',
    { libraryId },
  );
  return found.map((group) => ({ ...group, personId: '', laterOwn: 0 }));
}

/** Groups of what a person sees as one of the team. */
export async function ownGroupsOf(db: Database, libraryId: string, personId: string): Promise<Group[]> {
  const found = await rows<Omit<Group, 'personId'>>(
    db,
    `SELECT kind, later, later_own AS laterOwn, COUNT(*) AS documents FROM newest_versions
     WHERE library_id = :libraryId AND person_id = :personId GROUP BY kind, later, later_own`,
    { libraryId, personId },
  );
  return found.map((group) => ({ ...group, personId, documents: Number(group.documents) }));
}
