import {
  type Approver,
  type Custody,
  type DocumentState,
  type Door,
  numberBy,
  type OwnValues,
  type PatternParts,
  type Rulebook,
  sightClass,
  type Version,
  type Voided,
} from '@polychron/core';
import { openRuns, toRun } from './approvals.ts';
import { columnsOf, rows, run, type Tx } from './database.ts';
import { bytesKeptIn } from './libraries.ts';
import { rolesOf } from './members.ts';
import { type DeskFileRow, type DocumentRow, type HeadRow, parseJson, type SaveRow } from './models.ts';
import { namedKey, namedOf, nobodyNamed } from './named.ts';
import { findPeople, namesOf } from './people.ts';
import { keepTeamPeriod } from './periods.ts';
import { type LibraryState, statesOfLibraries } from './rules.ts';
import { isNotVoided } from './sight.ts';
import type { Store } from './store.ts';
import { contentOf, findVersions, versionsInUse, type VersionOf } from './versions.ts';

/** A document with everything a decision is taken on. */
export interface LoadedDocument extends DocumentState {
  libraryId: string;
  library: LibraryState['library'];
  /** Since when the library is closed, and what it is called; null while it is open. */
  closed: LibraryState['closed'];
  /** By when it is to be reviewed, an ISO 8601 calendar date; null: by no date. */
  reviewBy: string | null;
  registeredAt: Date;
  /** The document's own approvers; none where the library's are asked. */
  ownApproverIds: string[];
  /** Copies set aside that wait to be brought in. */
  setAside: { base: Version; personId: string; at: Date }[];
}

/**
 * Loads one document's state and locks its head, so that decisions about a document are taken one after
 * another. The library is locked against a change of its rules meanwhile: an act follows the old rules or the
 * new, never some of both.
 * @returns null where there is no such document
 */
export async function lockDocument(store: Store, documentId: string, tx: Tx): Promise<LoadedDocument | null> {
  await rows(
    store.db,
    `SELECT l.id FROM libraries l JOIN documents d ON d.library_id = l.id
     WHERE d.id = :documentId LOCK IN SHARE MODE`,
    { documentId },
    tx,
  );
  await rows(
    store.db,
    'SELECT document_id FROM heads WHERE document_id = :documentId FOR UPDATE',
    { documentId },
    tx,
  );
  return (await loadDocuments(store, [documentId], tx)).get(documentId) ?? null;
}

/** The library of a document; null where there is no such document. */
export async function libraryOf(store: Store, documentId: string): Promise<string | null> {
  const [found] = await rows<{ libraryId: string }>(
    store.db,
    'SELECT library_id AS libraryId FROM documents WHERE id = :documentId',
    { documentId },
  );
  return found?.libraryId ?? null;
}

/** One document's state; null where there is none. */
export async function loadDocument(store: Store, id: string, tx?: Tx): Promise<LoadedDocument | null> {
  return (await loadDocuments(store, [id], tx)).get(id) ?? null;
}

/**
 * Loads the states of documents, in a fixed number of queries however many they are, most of them at once.
 * Unknown ids are left out.
 * @param known how libraries stand, where that was read already and all documents are of those
 */
export async function loadDocuments(
  store: Store,
  ids: readonly string[],
  tx?: Tx,
  known?: ReadonlyMap<string, LibraryState>,
): Promise<Map<string, LoadedDocument>> {
  if (ids.length === 0) return new Map();
  const [documents, found, runs, states] = await Promise.all([
    storedDocuments(store, ids, tx),
    versionsInUse(store, ids, tx),
    openRuns(store, ids, tx),
    known ?? statesOfLibraries(store, ids, tx),
  ]);
  const held = documents.filter(({ holderId }) => holderId !== null).map(({ id }) => id);
  const aside = documents.filter((one) => one.aside).map(({ id }) => id);
  const withNamed = documents.filter(({ limited, distributed }) => limited || distributed);
  const [setAside, saves, approvers, names, bytesKept, named] = await Promise.all([
    setAsideOf(store, aside, tx),
    savesOf(store, held, tx),
    loadApprovers(store, documents, states, tx),
    namesOf(
      store,
      runs.flatMap(({ run, posts }) => [run.submitterId, ...posts.map(({ personId }) => personId)]),
      tx,
    ),
    bytesOfLibraries(store, states, tx),
    namedOf(
      store,
      withNamed.map(({ id }) => id),
      tx,
    ),
  ]);
  const versions = await withVersions(
    store,
    found,
    [
      ...documents.flatMap(({ latestId, inForceId, baseId }) => [latestId, inForceId, baseId]),
      ...setAside.map(({ baseId }) => baseId),
    ],
    tx,
  );
  const nameOf = (id: string): string => names.get(id)?.name ?? '';
  const runOf = new Map(runs.map((one) => [one.run.documentId, one]));
  const [asideOf, foundOf, savesBy] = [byDocument(setAside), byDocument(found), byDocument(saves)];
  return new Map(
    documents.map((row): [string, LoadedDocument] => {
      const { id } = row;
      const latest = required(versions.get(row.latestId));
      const { library, rules, closed } = required(states.get(row.libraryId));
      const run = runOf.get(id);
      const copies = (asideOf.get(id) ?? []).flatMap(({ baseId, personId, createdAt }) => {
        const base = versions.get(baseId ?? '');
        return base ? [{ base, personId, at: createdAt }] : [];
      });
      return [
        id,
        {
          id,
          libraryId: row.libraryId,
          number: row.number,
          ownerId: row.ownerId,
          ownerName: row.ownerName,
          coAuthorIds: row.coAuthorIds,
          administrative: row.administrative,
          templateFor: row.templateFor,
          limit: row.limited ? (named.get(namedKey(id, 'limit')) ?? nobodyNamed) : null,
          voided: toVoided(row),
          registeredAt: row.registeredAt,
          distribution: row.distributed ? (named.get(namedKey(id, 'reading')) ?? nobodyNamed) : null,
          ownApproverIds: row.approverIds,
          reviewBy: row.reviewBy,
          presentEra: row.presentEra,
          highest: {
            era: row.presentEra,
            major: row.highestMajor,
            minor: row.highestMinor,
            numbering: latest.numbering,
          },
          latest,
          inForce: versions.get(row.inForceId ?? '') ?? null,
          scheduled: (foundOf.get(id) ?? [])
            .map(({ version }) => version)
            .filter((version) => sightClass(version) === 'scheduled'),
          approval: run ? toRun(run, nameOf) : null,
          approvers: approvers.get(id) ?? [],
          custody: toCustody(row, versions, savesBy.get(id) ?? []),
          setAsideBaseIds: copies.map(({ base }) => base.id),
          setAside: copies,
          bytesKept: bytesKept.get(row.libraryId) ?? null,
          library,
          rules,
          closed,
        },
      ];
    }),
  );
}

/**
 * Versions by id. What is asked at once may be answered from before and behind another's act: a version that
 * one answer names and the other does not know yet is read then.
 */
async function withVersions(
  store: Store,
  found: readonly VersionOf[],
  named: readonly (string | null)[],
  tx?: Tx,
): Promise<Map<string, Version>> {
  const versions = new Map(found.map(({ version }) => [version.id, version]));
  const missing = named.filter((id) => id !== null && !versions.has(id));
  for (const [id, version] of await findVersions(store, missing, tx)) versions.set(id, version);
  return versions;
}

/** What is of documents, by document, in the order given. */
function byDocument<T extends { documentId: string | null }>(list: readonly T[]): Map<string, T[]> {
  const found = new Map<string, T[]>();
  for (const one of list) {
    if (one.documentId === null) continue;
    const known = found.get(one.documentId);
    if (known) known.push(one);
    else found.set(one.documentId, [one]);
  }
  return found;
}

/** A document with its head, its owner's name, and who holds it, where somebody does. */
interface StoredDocument extends Pick<
  HeadRow,
  'latestId' | 'inForceId' | 'presentEra' | 'highestMajor' | 'highestMinor'
> {
  id: string;
  libraryId: string;
  number: string;
  ownerId: string;
  ownerName: string;
  coAuthorIds: string[];
  approverIds: string[];
  administrative: OwnValues;
  templateFor: string | null;
  limited: number;
  distributed: number;
  registeredAt: Date;
  voidedAt: Date | null;
  voidedBy: string | null;
  voidedReason: string | null;
  /** Whether copies of it are set aside. */
  aside: number;
  reviewBy: string | null;
  holderId: string | null;
  holderName: string;
  since: Date;
  untilAt: Date | null;
  reason: string | null;
  baseId: string | null;
  door: Door;
  lockToken: string | null;
  lockOwner: string | null;
  lockUntil: Date | null;
  askedAt: Date | null;
}

async function storedDocuments(store: Store, ids: readonly string[], tx?: Tx): Promise<StoredDocument[]> {
  const found = await rows<StoredDocument>(
    store.db,
    `SELECT d.id, d.library_id AS libraryId, d.number, d.owner_id AS ownerId, o.name AS ownerName,
       d.co_author_ids AS coAuthorIds, d.approver_ids AS approverIds, d.administrative, d.template_for AS templateFor,
       d.limited, d.distributed, d.created_at AS registeredAt, d.voided_at AS voidedAt, d.voided_by AS voidedBy,
       d.voided_reason AS voidedReason,
       EXISTS (SELECT 1 FROM desk_files f WHERE f.document_id = d.id AND f.kind = 'setAside') AS aside,
       h.latest_id AS latestId,
       h.in_force_id AS inForceId, h.present_era AS presentEra, h.highest_major AS highestMajor,
       h.highest_minor AS highestMinor,
       DATE_FORMAT(h.review_by, '%Y-%m-%d') AS reviewBy, c.holder_id AS holderId, p.name AS holderName, c.since,
       c.until_at AS untilAt, c.reason, c.base_id AS baseId, c.door,
       c.lock_token AS lockToken, c.lock_owner AS lockOwner, c.lock_until AS lockUntil, c.asked_at AS askedAt
     FROM documents d JOIN heads h ON h.document_id = d.id JOIN people o ON o.id = d.owner_id
     LEFT JOIN checkouts c ON c.document_id = d.id LEFT JOIN people p ON p.id = c.holder_id
     WHERE d.id IN (:ids)`,
    { ids },
    tx,
  );
  return found.map((row) => ({
    ...row,
    coAuthorIds: parseJson<string[]>(row.coAuthorIds),
    approverIds: parseJson<string[]>(row.approverIds),
    administrative: parseJson<OwnValues>(row.administrative),
  }));
}

/** That a document was voided, as its row says. */
export const toVoided = (row: {
  voidedAt: Date | null;
  voidedBy: string | null;
  voidedReason: string | null;
}): Voided | null =>
  row.voidedAt && row.voidedBy
    ? { at: row.voidedAt, byId: row.voidedBy, reason: row.voidedReason ?? '' }
    : null;

/** Copies of documents set aside on Desks. */
async function setAsideOf(store: Store, documentIds: readonly string[], tx?: Tx): Promise<SetAsideRow[]> {
  if (documentIds.length === 0) return [];
  return rows<SetAsideRow>(
    store.db,
    `SELECT document_id AS documentId, base_id AS baseId, person_id AS personId, created_at AS createdAt
     FROM desk_files WHERE document_id IN (:documentIds) AND kind = 'setAside'`,
    { documentIds },
    tx,
  );
}
type SetAsideRow = Pick<DeskFileRow, 'documentId' | 'baseId' | 'personId' | 'createdAt'>;

/** Saves of what is held, in order. */
async function savesOf(store: Store, documentIds: readonly string[], tx?: Tx): Promise<SaveRow[]> {
  if (documentIds.length === 0) return [];
  const saves = `SELECT ${saveColumns} FROM saves s WHERE s.document_id IN (:documentIds) ORDER BY s.position`;
  return rows<SaveRow>(store.db, saves, { documentIds }, tx);
}
const saveColumns = columnsOf('s', [
  ...['documentId', 'position', 'at', 'sha256', 'size', 'fileName', 'mediaType', 'words', 'sitting'],
]);

/** What libraries keep, of those that have an allowance to hold it against. */
async function bytesOfLibraries(
  store: Store,
  states: ReadonlyMap<string, LibraryState>,
  tx?: Tx,
): Promise<Map<string, number | null>> {
  const kept = new Map<string, number | null>();
  for (const [id, { rules }] of states) kept.set(id, await bytesHeldAgainst(store, id, rules, tx));
  return kept;
}

/**
 * Bytes a library keeps; null where it has no allowance to hold them against, and nobody need add them up.
 */
export async function bytesHeldAgainst(
  store: Store,
  libraryId: string,
  rules: Rulebook,
  tx?: Tx,
): Promise<number | null> {
  return rules.allowanceBytes === null ? null : bytesKeptIn(store, libraryId, tx);
}

/**
 * Who may be asked to decide about documents: their own approvers, else their library's, with the roles they
 * hold now.
 */
export async function loadApprovers(
  store: Store,
  documents: readonly Pick<DocumentRow, 'id' | 'libraryId' | 'approverIds'>[],
  libraries: ReadonlyMap<string, { rules: Rulebook }>,
  tx?: Tx,
): Promise<Map<string, Approver[]>> {
  const accounts = [...libraries.values()].flatMap(({ rules }) => rules.approval.approvers);
  const ids = documents.flatMap(({ approverIds }) => approverIds);
  const people = await findPeople(store, { ids, accounts }, tx);
  const roles = await rolesOf(
    store,
    [...libraries.keys()],
    people.map(({ id }) => id),
    tx,
  );
  const askedOf = ({ libraryId, approverIds }: (typeof documents)[number]): Approver[] => {
    const named = libraries.get(libraryId)?.rules.approval.approvers ?? [];
    const found =
      approverIds.length > 0
        ? approverIds.map((personId) => people.find(({ id }) => id === personId))
        : named.map((each) => people.find(({ account }) => account === each));
    return found.flatMap((person) =>
      person
        ? [
            {
              id: person.id,
              name: person.name,
              roles: roles.get(`${libraryId} ${person.id}`) ?? new Set(),
            },
          ]
        : [],
    );
  };
  return new Map(documents.map((document) => [document.id, askedOf(document)]));
}

function required<T>(value: T | undefined): T {
  if (value === undefined) throw new Error('the database lacks a row that its keys promise');
  return value;
}

function toCustody(
  row: StoredDocument,
  versions: ReadonlyMap<string, Version>,
  saves: readonly SaveRow[],
): Custody | null {
  const { holderId, holderName, since, untilAt, reason, baseId, door, lockToken, lockUntil, askedAt } = row;
  if (holderId === null) return null;
  const last = saves.at(-1);
  return {
    holderId,
    holderName,
    since,
    until: untilAt,
    reason,
    base: required(versions.get(baseId ?? '')),
    saves: saves.length,
    bytesSaved: saves.reduce((sum, { size }) => sum + Number(size), 0),
    lastSavedAt: last?.at ?? null,
    sitting: last?.sitting ?? null,
    workingCopy: last ? contentOf(last) : null,
    door,
    lock: lockToken && lockUntil ? { token: lockToken, owner: row.lockOwner ?? '', until: lockUntil } : null,
    askedAt,
  };
}

/**
 * Documents of a library that stand, in the order of their ids; locked inside a transaction. Where asked,
 * only those in approval.
 */
export async function documentsIn(
  store: Store,
  libraryId: string,
  which: 'all' | 'inApproval' = 'all',
  tx?: Tx,
): Promise<string[]> {
  const joined = which === 'inApproval' ? 'JOIN approval_runs r ON r.open_document_id = h.document_id' : '';
  const found = await rows<{ id: string }>(
    store.db,
    `SELECT h.document_id AS id FROM heads h JOIN documents d ON d.id = h.document_id AND ${isNotVoided} ${joined}
     WHERE h.library_id = :libraryId
     ORDER BY h.document_id ${tx ? 'FOR UPDATE' : ''}`,
    { libraryId },
    tx,
  );
  return found.map(({ id }) => id);
}

/** Documents that stand, with a scheduled version whose moment has come. */
export async function documentsDue(store: Store, now: Date): Promise<string[]> {
  const found = await rows<{ id: string }>(
    store.db,
    `SELECT DISTINCT v.document_id AS id FROM versions v JOIN documents d ON d.id = v.document_id
     WHERE v.standing = 'scheduled' AND v.in_force_from <= :now AND ${isNotVoided}`,
    { now },
  );
  return found.map(({ id }) => id);
}

/** The number above the highest that has the form of a pattern: OP-001, OP-002. */
export async function proposeNumber(
  store: Store,
  libraryId: string,
  pattern: PatternParts,
  tx?: Tx,
): Promise<string> {
  const { before, after } = pattern;
  const around = [...before, ...after].length;
  // Of numbers of one length the last is the highest; each is looked for where it stands in the index.
  const highestOf = (digits: number): string =>
    `(SELECT number FROM documents
      WHERE library_id = :libraryId AND number_length = ${around + digits}
        AND number BETWEEN :lowest${digits} AND :highest${digits} AND number REGEXP :form
      ORDER BY number DESC LIMIT 1)`;
  const ends = digitCounts.flatMap((digits) => [
    [`lowest${digits}`, `${before}${'0'.repeat(digits)}${after}`],
    [`highest${digits}`, `${before}${'9'.repeat(digits)}${after}`],
  ]);
  const found = await rows<{ number: string }>(
    store.db,
    digitCounts.map(highestOf).join(' UNION ALL '),
    { libraryId, form: `^${literally(before)}[0-9]+${literally(after)}$`, ...Object.fromEntries(ends) },
    tx,
  );
  const counts = found.map(({ number }) => Number(number.slice(before.length, number.length - after.length)));
  return numberBy(pattern, Math.max(0, ...counts) + 1);
}

/** How many digits the count in a number may have. */
const digitCounts = [1, 2, 3, 4, 5, 6, 7, 8, 9];

/** A text as a regular expression that finds just it. */
const literally = (text: string): string => text.replace(/[./_-]/g, '[$&]');

/** Keeps what a document is beside its versions. */
export async function insertDocument(
  store: Store,
  document: Pick<DocumentRow, 'id' | 'libraryId' | 'number' | 'ownerId' | 'coAuthorIds' | 'createdAt'> & {
    approverIds: string[];
  },
  tx: Tx,
): Promise<void> {
  await store.models.Document.create(document, { transaction: tx });
  await keepTeamPeriod(store, document.id, document.createdAt, tx);
  if (document.coAuthorIds.length + document.approverIds.length > 0) await noteNamed(store, document.id, tx);
}

/** Keeps who is named with a document as co-author or approver where documents are found by person. */
export async function noteNamed(store: Store, documentId: string, tx: Tx): Promise<void> {
  const given = { documentId };
  await run(store.db, 'DELETE FROM document_people WHERE document_id = :documentId', given, tx);
  await run(
    store.db,
    `INSERT INTO document_people SELECT DISTINCT named.id, d.id FROM documents d
       JOIN JSON_TABLE(JSON_MERGE_PRESERVE(d.co_author_ids, d.approver_ids), '$[*]'
         COLUMNS (id CHAR(36) CHARACTER SET ascii PATH '$')) named
       WHERE d.id = :documentId`,
    given,
    tx,
  );
}
