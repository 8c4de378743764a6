import { Op } from 'sequelize';
import type { ApprovalRun, Approver, ContentFacts, Custody, DocumentState, Fields, Role, Rulebook, Version } from '@polychron/core';
import type { Context } from '../context.ts';
import type { Tx } from './database.ts';
import { rows } from './database.ts';
import { type ApprovalPostRow, type ApprovalRunRow, parseJson, type CheckoutRow, type SaveRow, type VersionRow } from './models.ts';

/** A document with everything a decision is taken on. */
export interface LoadedDocument extends DocumentState {
  libraryId: string;
  lastSequence: number;
  /** Copies set aside that wait to be brought in. */
  setAside: { base: Version; personId: string; at: Date }[];
}

/**
 * Loads one document's state and locks its head, so that decisions about a document are taken one after another. The library is locked
 * against a change of its rules meanwhile: an act follows the old rules or the new, never some of both.
 */
export async function lockDocument(context: Context, documentId: string, tx: Tx): Promise<LoadedDocument | null> {
  await rows(context.db, 'SELECT l.id FROM libraries l JOIN documents d ON d.library_id = l.id WHERE d.id = :documentId LOCK IN SHARE MODE', { documentId }, tx);
  const head = await context.models.Head.findByPk(documentId, { transaction: tx, lock: tx.LOCK.UPDATE });
  return head ? (await loadDocuments(context, [documentId], tx)).get(documentId) ?? null : null;
}

/** Loads the states of documents, in a fixed number of queries however many they are. Unknown ids are left out. */
export async function loadDocuments(context: Context, ids: readonly string[], tx?: Tx): Promise<Map<string, LoadedDocument>> {
  const { models } = context;
  const options = { transaction: tx ?? null };
  const where = { documentId: [...ids] };
  const heads = await models.Head.findAll({ where, ...options });
  if (heads.length === 0) return new Map();
  const documents = new Map((await models.Document.findAll({ where: { id: [...ids] }, ...options })).map((row) => [row.id, row]));
  const checkouts = new Map((await models.Checkout.findAll({ where, ...options })).map((row) => [row.documentId, row]));
  const saves = checkouts.size > 0 ? await models.Save.findAll({ where, order: ['position'], ...options }) : [];
  const setAside = await models.DeskFile.findAll({ where: { ...where, kind: 'setAside' }, ...options });
  const versionIds = [...heads.flatMap((head) => [head.latestId, head.inForceId]), ...[...checkouts.values()].map((row) => row.baseId), ...setAside.map((row) => row.baseId)].filter((id) => id !== null);
  const found = await models.Version.findAll({ where: { [Op.or]: [{ id: versionIds }, { ...where, standing: 'scheduled' }] }, ...options });
  const versions = new Map(found.map((row) => [row.id, toVersion(row)]));
  const scheduled = found.filter((row) => row.standing === 'scheduled').sort((a, b) => a.sequence - b.sequence);
  const { runs, posts } = await openRuns(context, ids, tx);
  const rules = new Map<string, Rulebook>();
  const bytesKept = new Map<string, number | null>();
  const libraryIds = [...new Set(heads.map((head) => head.libraryId))];
  for (const libraryId of libraryIds) {
    const rulebook = await loadRules(context, libraryId, tx);
    rules.set(libraryId, rulebook);
    bytesKept.set(libraryId, rulebook.allowanceBytes === null ? null : await bytesKeptIn(context, libraryId, tx));
  }
  const approvers = await loadApprovers(context, [...documents.values()], rules, tx);
  const people = await namesOf(context, [
    ...[...documents.values()].map((row) => row.ownerId), ...[...checkouts.values()].map((row) => row.holderId),
    ...runs.map((run) => run.submitterId), ...posts.map((post) => post.personId),
  ], tx);
  const nameOf = (id: string): string => people.get(id)?.name ?? '';

  return new Map(heads.map((head): [string, LoadedDocument] => {
    const document = required(documents.get(head.documentId));
    const checkout = checkouts.get(head.documentId);
    const latest = required(versions.get(head.latestId));
    const run = runs.find((one) => one.documentId === head.documentId);
    return [head.documentId, {
      id: head.documentId, libraryId: head.libraryId, number: document.number,
      ownerId: document.ownerId, ownerName: nameOf(document.ownerId), coAuthorIds: document.coAuthorIds,
      presentEra: head.presentEra, lastSequence: head.lastSequence, rules: required(rules.get(head.libraryId)),
      highest: { era: head.presentEra, major: head.highestMajor, minor: head.highestMinor, numbering: latest.numbering },
      latest, inForce: head.inForceId ? versions.get(head.inForceId) ?? null : null,
      scheduled: scheduled.filter((row) => row.documentId === head.documentId).map(toVersion),
      approval: run ? toRun(run, posts.filter((post) => post.runId === run.id), nameOf) : null,
      approvers: required(approvers.get(head.documentId)),
      custody: checkout
        ? toCustody(checkout, nameOf(checkout.holderId), required(versions.get(checkout.baseId)), saves.filter((save) => save.documentId === head.documentId))
        : null,
      setAsideBaseIds: setAside.flatMap((file) => (file.documentId === head.documentId && file.baseId !== null ? [file.baseId] : [])),
      setAside: setAside.flatMap((file) => { const base = file.documentId === head.documentId ? versions.get(file.baseId ?? '') : undefined; return base ? [{ base, personId: file.personId, at: file.createdAt }] : []; }),
      bytesKept: bytesKept.get(head.libraryId) ?? null,
    }];
  }));
}

async function openRuns(context: Context, ids: readonly string[], tx?: Tx): Promise<{ runs: ApprovalRunRow[]; posts: ApprovalPostRow[] }> {
  const runs = await context.models.ApprovalRun.findAll({ where: { openDocumentId: [...ids] }, transaction: tx ?? null });
  const posts = runs.length === 0 ? [] : await context.models.ApprovalPost.findAll({ where: { runId: runs.map((run) => run.id) }, order: ['position'], transaction: tx ?? null });
  return { runs, posts };
}

function toRun(run: ApprovalRunRow, posts: readonly ApprovalPostRow[], nameOf: (id: string) => string): ApprovalRun {
  return {
    versionId: run.versionId, mode: run.mode, submitterId: run.submitterId, submitterName: nameOf(run.submitterId), submittedAt: run.submittedAt, comment: run.comment,
    inForceFrom: run.inForceFrom,
    posts: posts.map((post) => ({ personId: post.personId, name: nameOf(post.personId), decision: post.decision, at: post.decidedAt, comment: post.comment })),
  };
}

/** Who is asked to decide about documents: their own approvers, else their library's, with the roles they hold now. */
export async function loadApprovers(
  context: Context, documents: readonly { id: string; libraryId: string; approverIds: readonly string[] }[], rules: ReadonlyMap<string, Rulebook>, tx?: Tx,
): Promise<Map<string, Approver[]>> {
  const accounts = [...rules.values()].flatMap(({ approval }) => approval.approvers);
  const ids = documents.flatMap(({ approverIds }) => approverIds);
  const people = accounts.length + ids.length === 0 ? []
    : await context.models.Person.findAll({ where: { [Op.or]: [{ id: ids }, { account: accounts }] }, transaction: tx ?? null });
  const roles = new Map<string, Set<Role>>();
  if (people.length > 0) {
    const held = await rows<{ libraryId: string; personId: string; role: Role }>(context.db,
      `SELECT library_id AS libraryId, person_id AS personId, role FROM held_roles WHERE library_id IN (:libraries) AND person_id IN (:people)`,
      { libraries: [...rules.keys()], people: people.map(({ id }) => id) }, tx);
    for (const { libraryId, personId, role } of held) {
      const key = `${libraryId} ${personId}`;
      roles.set(key, (roles.get(key) ?? new Set()).add(role));
    }
  }
  return new Map(documents.map(({ id, libraryId, approverIds }) => {
    const named = approverIds.length > 0
      ? approverIds.map((personId) => people.find((person) => person.id === personId))
      : (rules.get(libraryId)?.approval.approvers ?? []).map((account) => people.find((person) => person.account === account));
    return [id, named.flatMap((person): Approver[] => (person ? [{ id: person.id, name: person.name, roles: roles.get(`${libraryId} ${person.id}`) ?? new Set() }] : []))];
  }));
}

/** Bytes of content a library keeps: what was thinned, and waits on the shelf, no longer counts. */
export async function bytesKeptIn(context: Context, libraryId: string, tx?: Tx): Promise<number> {
  const [row] = await rows<{ bytes: number | null }>(context.db,
    'SELECT SUM(v.size) AS bytes FROM heads h JOIN versions v ON v.document_id = h.document_id WHERE h.library_id = :libraryId AND v.thinned_at IS NULL', { libraryId }, tx);
  return Number(row?.bytes ?? 0);
}

/** Every version of a document, oldest first. */
export async function loadVersions(context: Context, documentId: string, tx?: Tx): Promise<Version[]> {
  return (await context.models.Version.findAll({ where: { documentId }, order: ['sequence'], transaction: tx ?? null })).map(toVersion);
}

function required<T>(value: T | undefined): T {
  if (value === undefined) throw new Error('the database lacks a row that its keys promise');
  return value;
}

/** The content a row names: of a save, or of a file on a Desk. */
export const contentOf = ({ sha256, size, fileName, mediaType, words }: ContentFacts): ContentFacts => ({ sha256, size: Number(size), fileName, mediaType, words });

function toCustody(checkout: CheckoutRow, holderName: string, base: Version, saves: readonly SaveRow[]): Custody {
  const last = saves.at(-1);
  return {
    holderId: checkout.holderId, holderName, since: checkout.since, until: checkout.untilAt, reason: checkout.reason,
    base, saves: saves.length, lastSavedAt: last?.at ?? null, sitting: last?.sitting ?? null,
    workingCopy: last ? contentOf(last) : null,
  };
}

/** Account and name of people by their ids. */
export async function namesOf(context: Context, ids: readonly string[], tx?: Tx): Promise<Map<string, { account: string; name: string }>> {
  const found = await context.models.Person.findAll({ where: { id: [...new Set(ids)] }, transaction: tx ?? null });
  return new Map(found.map((row) => [row.id, { account: row.account, name: row.name }]));
}

/** The rules in force in a library. */
export async function loadRules(context: Context, libraryId: string, tx?: Tx): Promise<Rulebook> {
  const [row] = await rows<{ rulebook: unknown }>(context.db,
    `SELECT r.rulebook FROM libraries l JOIN rulebook_revisions r ON r.library_id = l.id AND r.revision = l.rulebook_revision WHERE l.id = :libraryId`,
    { libraryId }, tx);
  if (!row) throw new Error(`library ${libraryId} has no rulebook`);
  return parseJson<Rulebook>(row.rulebook);
}

/** A stored version as core sees it. */
export function toVersion(row: VersionRow): Version {
  return {
    id: row.id, sequence: row.sequence, era: row.era, major: row.major, minor: row.minor, numbering: row.numbering,
    state: row.state, standing: row.standing, authorId: row.authorId, at: row.at, comment: row.comment,
    origin: { kind: row.originKind, from: row.originFrom },
    content: { sha256: row.sha256, size: Number(row.size), fileName: row.fileName, mediaType: row.mediaType, words: row.words },
    fields: parseJson<Fields>(row.fields), inForceFrom: row.inForceFrom, supersededAt: row.supersededAt,
    thinned: row.thinnedAt && { at: row.thinnedAt, until: row.thinnedUntil ?? row.thinnedAt, why: row.thinnedWhy ?? '' }, sheltered: Boolean(row.sheltered),
  };
}
