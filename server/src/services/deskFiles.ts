import { readFile } from 'node:fs/promises';
import { v7 as newId } from 'uuid';
import type * as contract from '@polychron/contract';
import { bringIn as decideBringIn, canEdit, type ContentFacts, explainVersion, formatLabel, type MergeChoices, readerOf, refuse, type Version } from '@polychron/core';
import { readContent, sha256, storeContent } from '../content/contents.ts';
import type { StagedFile } from '../content/staging.ts';
import type { Context } from '../context.ts';
import type { MergedFiles } from '../jobs/readers.ts';
import { Refused } from '../refused.ts';
import { appendLedger } from '../store/applyDecision.ts';
import { rows, transact } from '../store/database.ts';
import { contentOf, loadDocuments, namesOf, toVersion } from '../store/documents.ts';
import type { DeskFileRow } from '../store/models.ts';
import { accessDocument, type Caller, findVersion, refuseThinned } from './access.ts';
import { act, madeVersion, markIn, marksOf, saveView } from './custody.ts';
import { createDocument, type NewDocument, refuseCreating } from './documents.ts';
import { documentNames } from './named.ts';

/** Files a person may keep on their Desk; it is a place to pass through. */
const mostFiles = 1000;

/** Files as the API tells them; a document is named only to whoever sees something of it. */
export async function fileViews(context: Context, caller: Caller, files: readonly DeskFileRow[]): Promise<contract.DeskFile[]> {
  const named = await documentNames(context, caller, files.flatMap(({ documentId }) => documentId ?? []));
  const bases = new Map((await context.models.Version.findAll({ where: { id: files.flatMap(({ baseId }) => baseId ?? []) } })).map((row) => [row.id, toVersion(row)]));
  const people = await namesOf(context, files.flatMap(({ byId }) => byId ?? []));
  const saves = await context.models.DeskSave.findAll({ where: { fileId: files.map(({ id }) => id) }, order: ['position'] });
  return files.map((file) => {
    const of = file.documentId === null ? undefined : named.get(file.documentId);
    const base = file.baseId === null ? undefined : bases.get(file.baseId);
    const label = (version: Version | undefined): string | null => (version && of ? formatLabel(version, of.access.document.presentEra) : null);
    return {
      id: file.id, kind: file.kind, ...contentOf(file), createdAt: file.createdAt.toISOString(), changedAt: file.changedAt.toISOString(),
      document: of?.name ?? null, base: label(base), latest: label(of?.newest),
      reason: file.reason, by: file.byId === null ? null : people.get(file.byId) ?? null,
      saves: saves.filter(({ fileId }) => fileId === file.id).map(saveView),
      editable: canEdit(file.mediaType, Number(file.size)) && file.kind !== 'setAside',
    };
  });
}

const noFile = (): Refused => new Refused(refuse('notFound', 'file-not-found', 'There is no such file on your Desk.'));

async function ownFile(context: Context, caller: Caller, id: string): Promise<DeskFileRow> {
  const file = await context.models.DeskFile.findOne({ where: { id, personId: caller.id } });
  if (!file) throw noFile();
  return file;
}

export async function readDeskFile(context: Context, caller: Caller, id: string): Promise<contract.DeskFile> {
  const [view] = await fileViews(context, caller, [await ownFile(context, caller, id)]);
  return view as contract.DeskFile;
}

export async function readDeskContent(context: Context, caller: Caller, id: string): Promise<ContentFacts> {
  return contentOf(await ownFile(context, caller, id));
}

export async function readDeskSave(context: Context, caller: Caller, id: string, position: number): Promise<ContentFacts> {
  await ownFile(context, caller, id);
  const save = await context.models.DeskSave.findOne({ where: { fileId: id, position } });
  if (!save) throw noFile();
  return contentOf(save);
}

/** Refuses a person whose Desk is full. */
async function refuseFullDesk(context: Context, caller: Caller): Promise<void> {
  if (await context.models.DeskFile.count({ where: { personId: caller.id } }) >= mostFiles) {
    throw new Refused(refuse('conflict', 'desk-full', `Your Desk holds ${mostFiles} files. Bring some into a library, or throw some away.`));
  }
}

/** Refuses early, before an upload is read, a person whose Desk is full, or who works in no library. */
export async function refuseArrival(context: Context, caller: Caller): Promise<void> {
  const [member] = await rows(context.db, "SELECT 1 AS held FROM held_roles WHERE person_id = :id AND role IN ('author', 'controller') LIMIT 1", { id: caller.id });
  if (!member) throw new Refused(refuse('forbidden', 'role-missing', 'Uploading is for authors and controllers of a library; you are neither in any.', { needs: 'authors and controllers' }));
  await refuseFullDesk(context, caller);
}

/** Puts a file on the caller's Desk. One that says which version it was taken from is kept with that, where they see it. */
export async function addArrival(context: Context, caller: Caller, file: StagedFile): Promise<contract.DeskFile> {
  const mark = await markIn(context, { facts: file.facts, bytes: () => readFile(file.path) });
  const base = mark && await context.models.Version.findByPk(mark.versionId);
  const seen = base && (await documentNames(context, caller, [base.documentId])).get(base.documentId);
  const known = base && seen && explainVersion(seen.access.document, seen.access.actor, toVersion(base)).sees ? base : null;
  return keepFile(context, caller, { kind: 'arrival', documentId: known?.documentId ?? null, baseId: known?.id ?? null, facts: file.facts }, file);
}

/** A private copy of a version the caller sees. */
export async function takeLooseCopy(context: Context, caller: Caller, documentId: string, name: string): Promise<contract.DeskFile> {
  await refuseFullDesk(context, caller);
  const access = await accessDocument(context, caller, documentId);
  const version = refuseThinned(await findVersion(context, access, name), name);
  return keepFile(context, caller, { kind: 'looseCopy', documentId, baseId: version.id, facts: version.content });
}

async function keepFile(
  context: Context, caller: Caller, made: Pick<DeskFileRow, 'kind' | 'documentId' | 'baseId'> & { facts: ContentFacts }, file?: StagedFile,
): Promise<contract.DeskFile> {
  const id = newId();
  const { facts, ...rest } = made;
  await transact(context.db, async (tx) => {
    const now = context.clock();
    if (file) await storeContent(context, file, facts.sha256, tx);
    await context.models.DeskFile.create({ id, personId: caller.id, createdAt: now, changedAt: now, ...rest, ...facts }, { transaction: tx });
  });
  return readDeskFile(context, caller, id);
}

/** Writes a file of one's own anew. A loose copy has no versions: what it said before is gone. */
export async function saveDeskFile(context: Context, caller: Caller, id: string, file: StagedFile, ifMatch?: string): Promise<contract.DeskFile> {
  await transact(context.db, async (tx) => {
    const row = await context.models.DeskFile.findOne({ where: { id, personId: caller.id }, transaction: tx, lock: tx.LOCK.UPDATE });
    if (!row) throw noFile();
    if (row.kind === 'setAside') throw new Refused(refuse('conflict', 'set-aside', 'A copy that was set aside stays as it is until it is brought in. Take a loose copy, or check the document out, to work on.'));
    if (ifMatch !== undefined && ifMatch !== '*' && ifMatch !== `"${row.sha256}"`) {
      throw new Refused(refuse('stale', 'working-copy-changed', 'The file was saved from elsewhere since this text was loaded. Load it, or save yours over it.', { present: row.sha256 }));
    }
    await storeContent(context, file, file.facts.sha256, tx);
    await row.update({ ...file.facts, changedAt: context.clock() }, { transaction: tx });
  });
  return readDeskFile(context, caller, id);
}

/** Throws a file of one's own away; one set aside is told to the document's Ledger. */
export async function removeDeskFile(context: Context, caller: Caller, id: string): Promise<void> {
  await transact(context.db, async (tx) => {
    const file = await context.models.DeskFile.findOne({ where: { id, personId: caller.id }, transaction: tx, lock: tx.LOCK.UPDATE });
    if (!file) throw noFile();
    await file.destroy({ transaction: tx });
    const document = file.kind === 'setAside' && file.documentId !== null ? (await loadDocuments(context, [file.documentId], tx)).get(file.documentId) : undefined;
    if (document) {
      await appendLedger(context, {
        personId: caller.id, at: context.clock(), libraryId: document.libraryId, documentId: document.id, act: 'dropSetAside', facts: { sha256: file.sha256, size: Number(file.size) },
      }, tx);
    }
  });
}

interface Landing { file: DeskFileRow; documentId: string; base: Version | null }

/** The document a file is to be brought into, and the version of it that the file was taken from. */
async function landingOf(context: Context, caller: Caller, id: string, document: string | undefined): Promise<Landing> {
  const file = await ownFile(context, caller, id);
  const documentId = document ?? file.documentId;
  if (!documentId) throw new Refused(refuse('invalid', 'document-missing', 'The file does not say which document it belongs to. Name the document.'));
  const row = file.documentId === documentId && file.baseId !== null ? await context.models.Version.findByPk(file.baseId) : null;
  return { file, documentId, base: row ? toVersion(row) : null };
}

async function filesOf(context: Context, { file, base }: Landing, latest: Version): Promise<MergedFiles | { why: string }> {
  const reader = readerOf(latest.content.mediaType);
  if (!reader || file.mediaType !== latest.content.mediaType) return { why: 'Files of this type are not merged in the page: take yours as it is, or leave the latest version as it is.' };
  if (!base) return { why: 'The file does not say which version it was taken from, so nothing can be merged: take it as it is, or leave the latest version as it is.' };
  if (base.thinned) return { why: 'The content of the version it was taken from was thinned, so nothing can be merged.' };
  const [a, b, c] = await Promise.all([base.content.sha256, latest.content.sha256, file.sha256].map((hash) => readContent(context, hash)));
  return { reader, base: a as Buffer, theirs: b as Buffer, yours: c as Buffer };
}

/** A file laid over what happened to its document since it was taken: base, theirs and yours side by side. */
export async function mergeDeskFile(context: Context, caller: Caller, id: string, document: string | undefined): Promise<contract.Merge> {
  const landing = await landingOf(context, caller, id, document);
  const { document: state, actor } = await accessDocument(context, caller, landing.documentId);
  if (!explainVersion(state, actor, state.latest).sees) throw new Refused(refuse('forbidden', 'change-being-prepared', `A change to ${state.number} is being prepared. Ask ${state.ownerName}.`));
  const name = (await documentNames(context, caller, [landing.documentId])).get(landing.documentId)?.name;
  if (!name) throw noFile();
  const files = await filesOf(context, landing, state.latest);
  const regions = 'why' in files ? [] : await context.readers.merge(files);
  const label = (version: Version): string => formatLabel(version, state.presentEra);
  return {
    document: name, base: landing.base ? label(landing.base) : '', latest: label(state.latest), format: 'why' in files ? null : files.reader, why: 'why' in files ? files.why : null,
    regions, conflicts: regions.filter(({ merged }) => merged === null).length,
  };
}

/** Makes a file of one's own the next version of a document, as it is or merged; it leaves the Desk with that. */
export async function bringIn(context: Context, caller: Caller, id: string, body: contract.BringIn): Promise<contract.Version> {
  const landing = await landingOf(context, caller, id, body.document);
  const { document: before } = await accessDocument(context, caller, landing.documentId);
  const merged = body.choices === null ? null : await mergedContent(context, landing, before.latest, body.choices);
  const content = merged?.facts ?? contentOf(landing.file);
  const marks = await marksOf(context, landing.documentId, { facts: content, bytes: async () => merged?.bytes ?? readContent(context, content.sha256) }, before.latest.content);
  const made = await act(context, caller, landing.documentId, {
    before: async (tx) => {
      if (merged) await storeContent(context, merged.bytes, merged.facts.sha256, tx);
      // Only one of two at once brings it in.
      if (await context.models.DeskFile.destroy({ where: { id, personId: caller.id, sha256: landing.file.sha256 }, transaction: tx }) === 0) throw noFile();
    },
  }, ({ document, actor }, now) => {
    const looked = body.latest ?? (merged ? formatLabel(before.latest, before.presentEra) : null);
    const latest = formatLabel(document.latest, document.presentEra);
    if (merged && (looked !== latest || document.latest.id !== before.latest.id)) {
      return refuse('stale', 'merged-with-earlier', `You merged with ${looked}; the latest is ${latest} now. Look at the merge again.`, { merged: looked, latest });
    }
    return decideBringIn(document, actor, {
      level: body.level, comment: body.comment, confirm: body.confirm, keepFileName: body.keepFileName, content, base: landing.base, merged: merged !== null && landing.base?.id !== document.latest.id,
      sameButForMark: marks.sameButForMark && marks.base === document.latest.content.sha256,
    }, now);
  });
  return madeVersion(context, caller, landing.documentId, made);
}

async function mergedContent(context: Context, landing: Landing, latest: Version, choices: MergeChoices): Promise<{ bytes: Uint8Array; facts: ContentFacts }> {
  const files = await filesOf(context, landing, latest);
  if ('why' in files) throw new Refused(refuse('invalid', 'not-mergeable', files.why));
  const bytes = await context.readers.resolve(files, choices);
  if (!bytes) throw new Refused(refuse('question', 'open-conflicts', 'Both sides changed the same place, and it is not chosen which stays. Choose for each conflict.'));
  const { fileName, mediaType } = landing.file;
  const words = (await context.readers.countWords(bytes, mediaType));
  return { bytes, facts: { sha256: sha256(bytes), size: bytes.length, fileName, mediaType, words } };
}

/** Registers a file of one's own as a new document; it leaves the Desk with that. */
export async function registerDeskFile(context: Context, caller: Caller, id: string, libraryId: string, wanted: NewDocument): Promise<contract.Document> {
  await refuseCreating(context, caller, libraryId);
  const file = await ownFile(context, caller, id);
  return createDocument(context, caller, libraryId, wanted, {
    facts: contentOf(file),
    keep: async (tx) => {
      if (await context.models.DeskFile.destroy({ where: { id, personId: caller.id, sha256: file.sha256 }, transaction: tx }) === 0) throw noFile();
    },
  });
}
