import type * as contract from '@polychron/contract';
import { type ContentFacts, seesVersion, refuse, rolesFor } from '@polychron/core';
import { accessDocument, findVersion, requireContent } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { contentTag, matches } from '../access/preconditions.ts';
import { storeContent } from '../content/contents.ts';
import type { StagedFile } from '../content/staging.ts';
import { noFile, readDeskFile } from '../reads/deskFiles.ts';
import { documentNames } from '../reads/documentNames.ts';
import { Refused } from '../refused.ts';
import { transact, type Tx } from '../store/database.ts';
import {
  type DeskFile,
  deleteDeskFile,
  findDeskFile,
  insertDeskFile,
  updateDeskFile,
} from '../store/deskFiles.ts';
import { loadDocument } from '../store/documents.ts';
import { appendLedger } from '../store/ledger.ts';
import { mayAnywhere } from '../store/members.ts';
import { findVersionAnywhere } from '../store/versions.ts';
import { stagedFile } from './checkIn.ts';
import { admitCreating } from './createDocument.ts';
import { refuseFullDesk } from './deskRoom.ts';
import { type GivenFile, markIn } from './marks.ts';

/** Lets through, before anything is uploaded, whoever works in a library. @throws Refused `role-missing` */
export async function requireUploader({ context, caller }: Pick<Asker, 'context' | 'caller'>): Promise<void> {
  if (await mayAnywhere(context, caller.id, 'create')) return;
  const needs = rolesFor('create');
  const reason = `Uploading is for ${needs} of a library; you are neither in any.`;
  throw new Refused(refuse('forbidden', 'role-missing', reason, { needs }));
}

/** Lets through, before an upload is read, whoever works in a library and has room on their Desk. */
export async function admitArrival(asker: Asker): Promise<void> {
  await requireUploader(asker);
  await refuseFullDesk(asker, { files: 1, bytes: 1 });
}

/**
 * Puts a file on the caller's Desk. One that says which version it was taken from is kept with that, where
 * they see it; `library` is where it is to be registered once its `fields` are complete.
 */
export async function performArrival(
  asker: Asker,
  file: StagedFile,
  { library, fields = {} }: { library?: string | undefined; fields?: Record<string, unknown> | undefined },
): Promise<contract.DeskFile> {
  const { context } = asker;
  if (library !== undefined) await admitCreating(asker, library);
  const taken = await originOf(asker, stagedFile(file));
  const meantFor = library === undefined ? null : { libraryId: library, fields };
  return keepFile(asker, { kind: 'arrival', content: file.facts, ...taken, meantFor }, (tx) =>
    storeContent(context, file, file.facts.sha256, tx),
  );
}

/** Where a file on a Desk comes from. */
export type Origin = Pick<DeskFile, 'documentId' | 'baseId'> & { kind?: 'looseCopy' };

/** The version a file says it was taken from, where the caller sees it. */
export async function originOf(asker: Asker, file: GivenFile): Promise<Origin> {
  const { context } = asker;
  const mark = await markIn(context, file);
  const base = mark && (await findVersionAnywhere(context, mark.versionId));
  const seen = base && (await documentNames(asker, [base.documentId])).get(base.documentId);
  const sees = base && seen && seesVersion(seen.access.document, seen.access.actor, base.version);
  return sees ? { documentId: base.documentId, baseId: base.version.id } : { documentId: null, baseId: null };
}

/** A private copy of a version the caller sees. */
export async function performLooseCopy(
  asker: Asker,
  documentId: string,
  name: string,
): Promise<contract.DeskFile> {
  const access = await accessDocument(asker, documentId);
  const { id, content } = requireContent(await findVersion(asker, access, name), name);
  return keepFile(asker, { kind: 'looseCopy', documentId, baseId: id, content, meantFor: null });
}

async function keepFile(
  asker: Asker,
  file: Pick<DeskFile, 'kind' | 'documentId' | 'baseId' | 'meantFor'> & { content: ContentFacts },
  keep?: (tx: Tx) => Promise<void>,
): Promise<contract.DeskFile> {
  const { context, caller } = asker;
  const id = await transact(context.db, async (tx) => {
    await refuseFullDesk(asker, { files: 1, bytes: file.content.size }, tx);
    await keep?.(tx);
    return insertDeskFile(context, caller.id, { ...file, createdAt: context.clock() }, tx);
  });
  return readDeskFile(asker, id);
}

/**
 * Writes a file of one's own anew. A private copy no versions; each save overwrites the last. `ifMatch`
 * names the content it was edited from.
 */
export async function performSaveDeskFile(
  asker: Asker,
  id: string,
  file: StagedFile,
): Promise<contract.DeskFile> {
  const { context, caller, ifMatch } = asker;
  await transact(context.db, async (tx) => {
    const kept = await findDeskFile(context, caller.id, id, tx);
    if (!kept) throw noFile();
    refuseSetAside(kept);
    refuseOtherContent(kept, ifMatch);
    await refuseFullDesk(asker, { files: 0, bytes: file.facts.size - kept.content.size }, tx);
    await storeContent(context, file, file.facts.sha256, tx);
    await updateDeskFile(context, id, { content: file.facts, changedAt: context.clock() }, tx);
  });
  return readDeskFile(asker, id);
}

function refuseSetAside({ kind }: DeskFile): void {
  if (kind !== 'setAside') return;
  const reason =
    'A copy that was set aside stays as it is until it is brought in. Take a private copy, or check the document out, to work on.';
  throw new Refused(refuse('conflict', 'set-aside', reason));
}

function refuseOtherContent({ content }: DeskFile, ifMatch: string | undefined): void {
  const present = content.sha256;
  if (matches(ifMatch, contentTag(present))) return;
  const reason =
    'The file was saved from elsewhere since this text was loaded. Load it, or save your text over it.';
  throw new Refused(refuse('stale', 'working-copy-changed', reason, { present }));
}

/** Throws a file of one's own away; one set aside is told to the document's Ledger. */
export async function performRemoveDeskFile({ context, caller }: Asker, id: string): Promise<void> {
  await transact(context.db, async (tx) => {
    const file = await findDeskFile(context, caller.id, id, tx);
    if (!file) throw noFile();
    await deleteDeskFile(context, caller.id, file, tx);
    if (file.kind !== 'setAside' || file.documentId === null) return;
    const document = await loadDocument(context, file.documentId, tx);
    if (!document) return;
    const { sha256, size } = file.content;
    const of = { libraryId: document.libraryId, documentId: document.id, personId: caller.id };
    const entry = { ...of, at: context.clock(), act: 'dropSetAside', facts: { sha256, size } };
    await appendLedger(context, entry, tx);
  });
}
