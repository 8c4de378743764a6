import type { Approver, Custody, DocumentState, Rulebook, Version } from '@polychron/core';
import { Op } from 'sequelize';
import { openRuns, toRun } from './approvals.ts';
import { rows, run, type Tx } from './database.ts';
import { bytesKeptIn } from './libraries.ts';
import { rolesOf } from './members.ts';
import { type CheckoutRow, type DocumentRow, type HeadRow, parseJson, type SaveRow } from './models.ts';
import { findPeople, namesOf } from './people.ts';
import { type LibraryState, loadLibraryState } from './rules.ts';
import type { Store } from './store.ts';
import { contentOf, toVersion } from './versions.ts';

/** A document with everything a decision is taken on. */
export interface LoadedDocument extends DocumentState {
  libraryId: string;
  /** Since when the library is closed, and what it is called; null while it is open. */
  closed: LibraryState['closed'];
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
  const head = await store.models.Head.findByPk(documentId, { transaction: tx, lock: tx.LOCK.UPDATE });
  if (!head) return null;
  return (await loadFrom(store, [head], tx)).get(documentId) ?? null;
}

/**
 * Loads the states of documents, in a fixed number of queries however many they are. Unknown ids are left
 * out.
 */
export async function loadDocuments(
  store: Store,
  ids: readonly string[],
  tx?: Tx,
): Promise<Map<string, LoadedDocument>> {
  const heads = await store.models.Head.findAll({
    where: { documentId: [...ids] },
    transaction: tx ?? null,
    raw: true,
  });
  return heads.length === 0 ? new Map() : loadFrom(store, heads, tx);
}

/** One document's state; null where there is none. */
export async function loadDocument(store: Store, id: string): Promise<LoadedDocument | null> {
  return (await loadDocuments(store, [id])).get(id) ?? null;
}

async function loadFrom(
  store: Store,
  heads: readonly HeadRow[],
  tx?: Tx,
): Promise<Map<string, LoadedDocument>> {
  const { models } = store;
  const ids = heads.map(({ documentId }) => documentId);
  const where = { documentId: ids };
  const transaction = tx ?? null;
  // Plain rows: a page of the Register reads hundreds.
  const options = { transaction, raw: true } as const;
  const [stored, checkouts, setAside, runs, libraries] = await Promise.all([
    models.Document.findAll({ where: { id: ids }, ...options }),
    models.Checkout.findAll({ where, ...options }),
    models.DeskFile.findAll({ where: { ...where, kind: 'setAside' }, ...options }),
    openRuns(store, ids, tx),
    loadLibraries(store, heads, tx),
  ]);
  const documents = stored.map((row) => ({
    ...row,
    coAuthorIds: parseJson<string[]>(row.coAuthorIds),
    approverIds: parseJson<string[]>(row.approverIds),
  }));
  const versionIds = [
    ...heads.flatMap((head) => [head.latestId, head.inForceId]),
    ...checkouts.map(({ baseId }) => baseId),
    ...setAside.map(({ baseId }) => baseId),
  ].filter((id) => id !== null);
  const [found, saves, approvers, names] = await Promise.all([
    models.Version.findAll({
      where: { [Op.or]: [{ id: versionIds }, { ...where, standing: 'scheduled' }] },
      order: ['sequence'],
      ...options,
    }),
    checkouts.length > 0 ? models.Save.findAll({ where, order: ['position'], ...options }) : [],
    loadApprovers(store, documents, libraries, tx),
    namesOf(
      store,
      [
        ...documents.map(({ ownerId }) => ownerId),
        ...checkouts.map(({ holderId }) => holderId),
        ...runs.flatMap(({ run, posts }) => [run.submitterId, ...posts.map(({ personId }) => personId)]),
      ],
      tx,
    ),
  ]);
  const versions = new Map(found.map((row) => [row.id, toVersion(row)]));
  const nameOf = (id: string): string => names.get(id)?.name ?? '';
  const byId = new Map(documents.map((row) => [row.id, row]));
  return new Map(
    heads.map((head): [string, LoadedDocument] => {
      const id = head.documentId;
      const of = <T extends { documentId: string | null }>(list: readonly T[]): T[] =>
        list.filter(({ documentId }) => documentId === id);
      const document = required(byId.get(id));
      const latest = required(versions.get(head.latestId));
      const library = required(libraries.get(head.libraryId));
      const [checkout] = of(checkouts);
      const run = runs.find((one) => one.run.documentId === id);
      const aside = of(setAside).flatMap(({ baseId, personId, createdAt }) => {
        const base = baseId === null ? undefined : versions.get(baseId);
        return base ? [{ base, personId, at: createdAt }] : [];
      });
      return [
        id,
        {
          id,
          libraryId: head.libraryId,
          number: document.number,
          ownerId: document.ownerId,
          ownerName: nameOf(document.ownerId),
          coAuthorIds: document.coAuthorIds,
          ownApproverIds: document.approverIds,
          presentEra: head.presentEra,
          highest: {
            era: head.presentEra,
            major: head.highestMajor,
            minor: head.highestMinor,
            numbering: latest.numbering,
          },
          latest,
          inForce: head.inForceId ? (versions.get(head.inForceId) ?? null) : null,
          scheduled: of(found)
            .filter(({ standing, state }) => standing === 'scheduled' && state === 'published')
            .map(toVersion),
          approval: run ? toRun(run, nameOf) : null,
          approvers: approvers.get(id) ?? [],
          custody: checkout
            ? toCustody(checkout, required(versions.get(checkout.baseId)), of(saves), nameOf)
            : null,
          setAsideBaseIds: aside.map(({ base }) => base.id),
          setAside: aside,
          ...library,
        },
      ];
    }),
  );
}

interface LibraryFacts extends LibraryState {
  bytesKept: number | null;
}

/**
 * The rules of the libraries these documents are in, and what those keep, where they have an allowance to
 * hold it against.
 */
async function loadLibraries(
  store: Store,
  heads: readonly HeadRow[],
  tx?: Tx,
): Promise<Map<string, LibraryFacts>> {
  const libraries = new Map<string, LibraryFacts>();
  for (const libraryId of new Set(heads.map((head) => head.libraryId))) {
    const state = await loadLibraryState(store, libraryId, tx);
    const bytesKept = await bytesHeldAgainst(store, libraryId, state.rules, tx);
    libraries.set(libraryId, { ...state, bytesKept });
  }
  return libraries;
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
  checkout: CheckoutRow,
  base: Version,
  saves: readonly SaveRow[],
  nameOf: (id: string) => string,
): Custody {
  const last = saves.at(-1);
  return {
    holderId: checkout.holderId,
    holderName: nameOf(checkout.holderId),
    since: checkout.since,
    until: checkout.untilAt,
    reason: checkout.reason,
    base,
    saves: saves.length,
    bytesSaved: saves.reduce((sum, { size }) => sum + Number(size), 0),
    lastSavedAt: last?.at ?? null,
    sitting: last?.sitting ?? null,
    workingCopy: last ? contentOf(last) : null,
  };
}

/**
 * Documents of a library, in the order of their ids; locked inside a transaction. Where asked, only those in
 * approval.
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
    `SELECT h.document_id AS id FROM heads h ${joined} WHERE h.library_id = :libraryId
     ORDER BY h.document_id ${tx ? 'FOR UPDATE' : ''}`,
    { libraryId },
    tx,
  );
  return found.map(({ id }) => id);
}

/** Documents with a scheduled version whose moment has come. */
export async function documentsDue(store: Store, now: Date): Promise<string[]> {
  const found = await rows<{ id: string }>(
    store.db,
    `SELECT DISTINCT document_id AS id FROM versions WHERE standing = 'scheduled' AND in_force_from <= :now`,
    { now },
  );
  return found.map(({ id }) => id);
}

/** A library's code and the number above the highest that has its form: OP-001, OP-002. */
export async function proposeNumber(
  store: Store,
  library: { id: string; code: string },
  tx: Tx,
): Promise<string> {
  const { id, code } = library;
  const [row] = await rows<{ highest: number | null }>(
    store.db,
    `SELECT MAX(CAST(SUBSTRING(number, :from) AS UNSIGNED)) AS highest FROM documents
     WHERE library_id = :id AND number REGEXP :form`,
    { id, from: code.length + 2, form: `^${code}-[0-9]{1,9}$` },
    tx,
  );
  return `${code}-${String(Number(row?.highest ?? 0) + 1).padStart(3, '0')}`;
}

/** Keeps what a document is beside its versions. */
export async function insertDocument(
  store: Store,
  document: Pick<DocumentRow, 'id' | 'libraryId' | 'number' | 'ownerId' | 'coAuthorIds' | 'createdAt'> & {
    approverIds: string[];
  },
  tx: Tx,
): Promise<void> {
  await store.models.Document.create(document, { transaction: tx });
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
