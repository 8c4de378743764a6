import { v7 as newId } from 'uuid';
import type * as contract from '@polychron/contract';
import {
  type ContentFacts, createDocument as decideCreate, explainVersion, type Fields, formatLabel, type Level, may, refuse, rolesFor, sightFacts, type Version,
} from '@polychron/core';
import type { Context } from '../context.ts';
import { storeContent } from '../content/contents.ts';
import type { StagedFile } from '../content/staging.ts';
import { accepted, Refused } from '../refused.ts';
import { appendLedger, carryOut } from '../store/applyDecision.ts';
import { isDuplicate, rows, transact, type Tx } from '../store/database.ts';
import { bytesKeptIn, loadApprovers, loadDocuments, loadRules, namesOf } from '../store/documents.ts';
import { sightCondition } from '../store/sightSql.ts';
import { pageOfVisible, visibleNeighbours } from '../store/visibleVersions.ts';
import { type Access, accessDocument, accessLibrary, type Caller, findVersion, memberId, refuseThinned } from './access.ts';
import { countViewers, documentViews, entityTag, versionViews } from './views.ts';

/** A first content that is kept already, or is kept in the document's transaction. */
export interface FirstContent { facts: ContentFacts; keep(tx: Tx): Promise<void> }

export interface NewDocument {
  fields: Fields & { number?: string | undefined; owner?: string | undefined; coAuthors?: string[] | undefined; approvers?: string[] | undefined };
  comment: string;
  level: Level;
}

/** Refuses early, before an upload is read, that the caller registers a document here. */
export async function refuseCreating(context: Context, caller: Caller, libraryId: string): Promise<void> {
  const { actor } = await accessLibrary(context, caller, libraryId);
  if (!may(actor.roles, 'create')) {
    throw new Refused(refuse('forbidden', 'role-missing', `Registering a document is for ${rolesFor('create')} of this library.`, { needs: rolesFor('create') }));
  }
}

/** Registers a document with its first version. */
export async function createDocument(context: Context, caller: Caller, libraryId: string, wanted: NewDocument, file: StagedFile | FirstContent): Promise<contract.Document> {
  const { number, owner, coAuthors, approvers, ...fields } = wanted.fields;
  const id = newId();
  await transact(context.db, async (tx) => {
    const { library, actor } = await accessLibrary(context, caller, libraryId, { tx });
    const now = context.clock();
    const rules = await loadRules(context, libraryId, tx);
    const ids = async (accounts: readonly string[] = []): Promise<string[]> => { const found = []; for (const account of accounts) found.push(await memberId(context, libraryId, account, tx)); return found; };
    const [ownerId, coAuthorIds, approverIds] = [(await ids(owner ? [owner] : []))[0] ?? caller.id, await ids(coAuthors), await ids(approvers)];
    const decision = accepted(decideCreate(rules, actor, {
      content: file.facts, fields, comment: wanted.comment, level: wanted.level, coAuthorIds,
      owner: { id: ownerId, name: (await namesOf(context, [ownerId], tx)).get(ownerId)?.name ?? '' },
      approvers: (await loadApprovers(context, [{ id, libraryId, approverIds }], new Map([[libraryId, rules]]), tx)).get(id) ?? [],
      bytesKept: rules.allowanceBytes === null ? null : await bytesKeptIn(context, libraryId, tx),
    }, now));
    const chosen = number ?? await proposeNumber(context, libraryId, library.code, tx);
    await ('keep' in file ? file.keep(tx) : storeContent(context, file, file.facts.sha256, tx));
    await context.models.Document.create({ id, libraryId, number: chosen, ownerId, coAuthorIds, approverIds, createdAt: now }, { transaction: tx });
    await carryOut(context, { id, libraryId, lastSequence: 0 }, [{ kind: 'addVersion', version: decision.version }, ...(decision.run ? [{ kind: 'openRun' as const, run: decision.run }] : [])], tx);
    await appendLedger(context, { at: now, personId: caller.id, libraryId, documentId: id, ...decision.ledger, facts: { ...decision.ledger.facts, number: chosen } }, tx);
  }).catch((error: unknown) => {
    if (!isDuplicate(error)) throw error;
    throw new Refused(refuse('conflict', 'number-taken', `This library has a document ${number ?? ''} already, perhaps one you may not see. Choose another number.`, { number }));
  });
  const document = (await loadDocuments(context, [id])).get(id);
  if (document) context.happenings.tell({ kind: 'document', documentId: id, libraryId, rules: document.rules, about: [sightFacts(document, document.latest)], custody: false });
  return (await readDocument(context, caller, id)).view;
}

/** The library's code and the number above the highest that has its form: OP-001, OP-002. */
async function proposeNumber(context: Context, libraryId: string, code: string, tx: Tx): Promise<string> {
  const [row] = await rows<{ highest: number | null }>(context.db,
    `SELECT MAX(CAST(SUBSTRING(number, :from) AS UNSIGNED)) AS highest FROM documents WHERE library_id = :libraryId AND number REGEXP :form`,
    { libraryId, from: code.length + 2, form: `^${code}-[0-9]{1,9}$` }, tx);
  return `${code}-${String(Number(row?.highest ?? 0) + 1).padStart(3, '0')}`;
}

/** One document as the caller sees it, with its entity tag. */
export async function readDocument(context: Context, caller: Caller, id: string): Promise<{ view: contract.Document; tag: string }> {
  return documentAnswer(context, await accessDocument(context, caller, id));
}

/** A document's view and entity tag for somebody who has access to it. */
export async function documentAnswer(context: Context, access: Access): Promise<{ view: contract.Document; tag: string }> {
  const [view] = await documentViews(context, [access]);
  if (!view) throw new Error(`document ${access.document.id} was accessed but has no visible version`);
  const full: contract.Document = { ...view, seenBy: view.toCome ? await countViewers(context, access) : null };
  return { view: full, tag: documentTag(view) };
}

/** Changes with what the caller sees of the document, custody included. */
export function documentTag(view: contract.Document): string {
  return entityTag([view.latest, view.inForce, view.custody, view.approval, view.owner, view.coAuthors, view.approvers], view.latest.label);
}

/** A page of the Register. */
export async function listDocuments(context: Context, caller: Caller, libraryId: string, query: contract.DocumentQuery): Promise<contract.DocumentList> {
  const { actor } = await accessLibrary(context, caller, libraryId);
  const rules = await loadRules(context, libraryId);
  const sight = sightCondition(actor, rules);
  const { conditions, replacements } = registerFilter(query, sight);
  const latest = (column: string): string => `(SELECT ${column} FROM versions v WHERE v.document_id = d.id AND ${sight} ORDER BY v.sequence DESC LIMIT 1)`;
  const sortKey = { number: 'd.number', title: latest("JSON_VALUE(v.fields, '$.title')"), changed: latest('v.at') }[query.sort];
  const direction = query.sort === 'changed' ? 'DESC' : 'ASC';
  const from = `documents d LEFT JOIN checkouts c ON c.document_id = d.id WHERE d.library_id = :libraryId
    AND EXISTS (SELECT 1 FROM versions v WHERE v.document_id = d.id AND ${sight}) ${conditions.map((condition) => `AND ${condition}`).join(' ')}`;
  const given = { ...replacements, libraryId, viewer: actor.id, now: context.clock(), limit: query.limit + 1 };
  const after = query.cursor === undefined ? null : readCursor(query.cursor);
  const found = await rows<{ id: string; number: string; k: string | Date }>(context.db,
    `SELECT * FROM (SELECT d.id, d.number, ${sortKey} AS k FROM ${from}) listed
     ${after ? `WHERE (k ${direction === 'ASC' ? '>' : '<'} :afterKey OR (k = :afterKey AND number > :afterNumber))` : ''}
     ORDER BY k ${direction}, number ASC LIMIT :limit`,
    { ...given, ...(after ? { afterKey: query.sort === 'changed' ? new Date(after.key) : after.key, afterNumber: after.number } : {}) });
  const [count] = await rows<{ total: number }>(context.db, `SELECT COUNT(*) AS total FROM ${from}`, given);
  const page = found.slice(0, query.limit);
  const documents = await loadDocuments(context, page.map((row) => row.id));
  const accesses = page.flatMap((row): Access[] => { const document = documents.get(row.id); return document ? [{ document, actor }] : []; });
  const last = page.at(-1);
  return {
    items: await documentViews(context, accesses),
    next: found.length > query.limit && last ? writeCursor({ key: last.k instanceof Date ? last.k.toISOString() : String(last.k), number: last.number }) : null,
    total: Number(count?.total ?? 0),
  };
}

/** Every filter speaks of versions the caller sees, and of custody as far as everyone who sees the document may know it. */
function registerFilter(query: contract.DocumentQuery, sight: string): { conditions: string[]; replacements: Record<string, unknown> } {
  const conditions: string[] = [];
  const replacements: Record<string, unknown> = {};
  const visible = (condition: string): string => `EXISTS (SELECT 1 FROM versions v WHERE v.document_id = d.id AND ${sight} AND ${condition})`;
  const latest = (condition: string): string =>
    `(SELECT ${condition} FROM versions v WHERE v.document_id = d.id AND ${sight} ORDER BY v.sequence DESC LIMIT 1)`;
  if (query.q) {
    conditions.push(`(d.number LIKE :like ESCAPE '|' OR ${visible(`(JSON_VALUE(v.fields, '$.title') LIKE :like ESCAPE '|' OR v.comment LIKE :like ESCAPE '|')`)})`);
    replacements['like'] = `%${query.q.replace(/[|%_]/g, '|$&')}%`;
  }
  if (query.state) { conditions.push(latest('v.state = :state')); replacements['state'] = query.state; }
  if (query.subject) { conditions.push(latest("JSON_CONTAINS(v.fields, JSON_QUOTE(:subject), '$.subject')")); replacements['subject'] = query.subject; }
  if (query.owner) { conditions.push('d.owner_id = (SELECT id FROM people WHERE account = :owner)'); replacements['owner'] = query.owner; }
  if (query.heldBy === 'anyone') conditions.push('c.document_id IS NOT NULL');
  else if (query.heldBy === 'nobody') conditions.push('c.document_id IS NULL');
  else if (query.heldBy === 'me') conditions.push('c.holder_id = :viewer');
  else if (query.heldBy) {
    conditions.push('c.holder_id = (SELECT id FROM people WHERE account = :holder)');
    replacements['holder'] = query.heldBy;
  }
  // The end of a check-out is told only to those who see its base.
  if (query.overdue) conditions.push(`(c.until_at < :now AND EXISTS (SELECT 1 FROM versions v WHERE v.id = c.base_id AND ${sight}))`);
  return { conditions, replacements };
}

interface Cursor { key: string; number: string }
const writeCursor = (cursor: Cursor): string => Buffer.from(JSON.stringify([cursor.key, cursor.number])).toString('base64url');
function readCursor(text: string): Cursor {
  try {
    const [key, number] = JSON.parse(Buffer.from(text, 'base64url').toString('utf8')) as unknown[];
    if (typeof key === 'string' && typeof number === 'string') return { key, number };
  } catch (error) {
    if (!(error instanceof SyntaxError)) throw error;
  }
  throw new Refused(refuse('invalid', 'bad-cursor', 'The cursor is not one of this list. Start again without it.'));
}

/** A page of the versions the caller sees, newest first. A cursor is the id of the last version of the page before. */
export async function listVersions(context: Context, caller: Caller, id: string, page: { cursor?: string | undefined; limit: number }): Promise<contract.VersionList> {
  const access = await accessDocument(context, caller, id);
  const before = page.cursor === undefined ? null : (await findVersion(context, access, page.cursor)).sequence;
  const { versions, total } = await pageOfVisible(context, access.actor, access.document.rules, id, { beforeSequence: before, limit: page.limit + 1 });
  const shown = versions.slice(0, page.limit);
  return {
    items: await versionViews(context, access, shown),
    next: versions.length > page.limit ? shown.at(-1)?.id ?? null : null,
    total,
  };
}

/** Where a version stands among those the caller sees, for its links. */
export interface Place { label: string; before: string | null; after: string | null; latest: string; holds: boolean }

/** One version with its place. */
export async function readVersion(context: Context, caller: Caller, id: string, name: string): Promise<{ version: Version; view: contract.Version; place: Place; number: string }> {
  const access = await accessDocument(context, caller, id);
  const version = await findVersion(context, access, name);
  const [view] = await versionViews(context, access, [version]);
  return { version, view: view as contract.Version, place: await placeOf(context, access, version), number: access.document.number };
}

async function placeOf(context: Context, { document, actor }: Access, version: Version): Promise<Place> {
  const { before, after } = await visibleNeighbours(context, actor, document.rules, document.id, version.sequence);
  const { versions } = await pageOfVisible(context, actor, document.rules, document.id, { beforeSequence: null, limit: 1 });
  const label = (one: Version | null | undefined): string | null => (one ? formatLabel(one, document.presentEra) : null);
  return {
    label: label(version) as string, before: label(before), after: label(after), latest: label(versions[0]) ?? label(version) as string,
    holds: document.custody?.holderId === actor.id && !actor.lookingAs,
  };
}

/** The version in force, as far as the caller sees one. */
export async function readInForce(context: Context, caller: Caller, id: string): Promise<{ version: Version; number: string; label: string }> {
  const { document, actor } = await accessDocument(context, caller, id);
  const version = document.inForce;
  if (!version || !explainVersion(document, actor, version).sees) {
    throw new Refused(refuse('notFound', 'nothing-in-force', `No version of ${document.number} is in force.`));
  }
  return { version, number: document.number, label: formatLabel(version, document.presentEra) };
}


/** A version whose content is wanted. @throws Refused `content-thinned` where that is no longer kept */
export async function readVersionContent(context: Context, caller: Caller, id: string, name: string): Promise<{ version: Version; place: Place; number: string }> {
  const { version, place, number } = await readVersion(context, caller, id, name);
  return { version: refuseThinned(version, place.label), place, number };
}
