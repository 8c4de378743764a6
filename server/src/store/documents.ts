import type { Custody, DocumentState, Fields, Rulebook, Version } from '@polychron/core';
import type { Context } from '../context.ts';
import type { Tx } from './database.ts';
import { rows } from './database.ts';
import { parseJson, type CheckoutRow, type SaveRow, type VersionRow } from './models.ts';

/** A document with everything a decision is taken on. */
export interface LoadedDocument extends DocumentState {
  libraryId: string;
  lastSequence: number;
}

/** Loads one document's state and locks its head, so that decisions about a document are taken one after another. */
export async function lockDocument(context: Context, documentId: string, tx: Tx): Promise<LoadedDocument | null> {
  const head = await context.models.Head.findByPk(documentId, { transaction: tx, lock: tx.LOCK.UPDATE });
  return head ? (await loadDocuments(context, [documentId], tx)).get(documentId) ?? null : null;
}

/** Loads the states of documents, in a fixed number of queries however many they are. Unknown ids are left out. */
export async function loadDocuments(context: Context, ids: readonly string[], tx?: Tx): Promise<Map<string, LoadedDocument>> {
  const { models } = context;
  const options = { transaction: tx ?? null };
  const where = { documentId: [...ids] };
  const heads = await models.Head.findAll({ where, ...options });
  const documents = new Map((await models.Document.findAll({ where: { id: [...ids] }, ...options })).map((row) => [row.id, row]));
  const checkouts = new Map((await models.Checkout.findAll({ where, ...options })).map((row) => [row.documentId, row]));
  const saves = checkouts.size > 0 ? await models.Save.findAll({ where, order: ['position'], ...options }) : [];
  const versionIds = [...heads.flatMap((head) => [head.latestId, head.inForceId]), ...[...checkouts.values()].map((row) => row.baseId)];
  const versions = new Map((await models.Version.findAll({ where: { id: versionIds.filter((id) => id !== null) }, ...options }))
    .map((row) => [row.id, toVersion(row)]));
  const people = await namesOf(context, [...[...documents.values()].map((row) => row.ownerId), ...[...checkouts.values()].map((row) => row.holderId)], tx);
  const rules = new Map<string, Rulebook>();
  for (const libraryId of new Set(heads.map((head) => head.libraryId))) rules.set(libraryId, await loadRules(context, libraryId, tx));

  return new Map(heads.map((head): [string, LoadedDocument] => {
    const document = required(documents.get(head.documentId));
    const checkout = checkouts.get(head.documentId);
    const latest = required(versions.get(head.latestId));
    return [head.documentId, {
      id: head.documentId, libraryId: head.libraryId, number: document.number,
      ownerId: document.ownerId, ownerName: people.get(document.ownerId)?.name ?? '', coAuthorIds: document.coAuthorIds,
      presentEra: head.presentEra, lastSequence: head.lastSequence, rules: required(rules.get(head.libraryId)),
      highest: { era: head.presentEra, major: head.highestMajor, minor: head.highestMinor, numbering: latest.numbering },
      latest, inForce: head.inForceId ? versions.get(head.inForceId) ?? null : null,
      custody: checkout
        ? toCustody(checkout, people.get(checkout.holderId)?.name ?? '', required(versions.get(checkout.baseId)), saves.filter((save) => save.documentId === head.documentId))
        : null,
    }];
  }));
}

function required<T>(value: T | undefined): T {
  if (value === undefined) throw new Error('the database lacks a row that its keys promise');
  return value;
}

function toCustody(checkout: CheckoutRow, holderName: string, base: Version, saves: readonly SaveRow[]): Custody {
  const last = saves.at(-1);
  return {
    holderId: checkout.holderId, holderName, since: checkout.since, until: checkout.untilAt, reason: checkout.reason,
    base, saves: saves.length, lastSavedAt: last?.at ?? null,
    workingCopy: last ? { sha256: last.sha256, size: Number(last.size), fileName: last.fileName, mediaType: last.mediaType, words: last.words } : null,
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
    fields: parseJson<Fields>(row.fields), inForceFrom: row.inForceFrom, thinned: row.thinnedAt !== null, sheltered: Boolean(row.sheltered),
  };
}
