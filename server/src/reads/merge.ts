import type * as contract from '@polychron/contract';
import {
  firstRefusal,
  labelIn,
  readerOf,
  refuse,
  refuseByRole,
  refuseUnseenLatest,
  type Version,
} from '@polychron/core';
import { admit } from '../access/admission.ts';
import type { Admitted, Asker } from '../access/caller.ts';
import { fetched } from '../content/contents.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import type { DeskFile } from '../store/deskFiles.ts';
import { findVersions } from '../store/versions.ts';
import type { MergedFiles } from '../workers/readers.ts';
import { noFile, ownFile } from './deskFiles.ts';
import { documentNames } from './documentNames.ts';

/** A file that is to be brought in: into which document, and the version of it that it was taken from. */
export interface BroughtFile {
  file: DeskFile;
  documentId: string;
  base: Version | null;
}

/** A file of the caller's own, with where it goes. @throws Refused `file-not-found`, `document-missing` */
export async function broughtFile(
  asker: Asker,
  id: string,
  document: string | undefined,
): Promise<BroughtFile> {
  const file = await ownFile(asker, id);
  const documentId = document ?? file.documentId;
  if (!documentId) {
    const reason = 'The file does not say which document it belongs to. Name the document.';
    throw new Refused(refuse('invalid', 'document-missing', reason));
  }
  const { baseId } = file;
  if (file.documentId !== documentId || baseId === null) return { file, documentId, base: null };
  const base = (await findVersions(asker.context, [baseId])).get(baseId) ?? null;
  return { file, documentId, base };
}

/** Why three files are not merged. */
export interface NotMerged {
  why: string;
}

/** The three files of a merge, or why there is none. */
export async function filesToMerge(
  context: Context,
  { file, base }: BroughtFile,
  { document: { latest } }: Admitted,
): Promise<MergedFiles | NotMerged> {
  const reader = readerOf(latest.content.mediaType);
  const instead = 'use your file alone, or leave the document as it is now.';
  if (!reader || file.content.mediaType !== latest.content.mediaType) {
    return { why: `Files of this type are not merged in the page: ${instead}` };
  }
  if (!base) {
    const why = `The file does not say which version it was taken from, so nothing can be merged: ${instead}`;
    return { why };
  }
  if (base.thinned) {
    return { why: 'The content of the version it was taken from was thinned, so nothing can be merged.' };
  }
  return {
    reader,
    base: fetched(context, base.content),
    present: fetched(context, latest.content),
    mine: fetched(context, file.content),
  };
}

/**
 * A file laid over what happened to its document since it was taken: as it was taken, as it is now, and the
 * copy, side by side.
 */
export async function readMerge(
  asker: Asker,
  id: string,
  document: string | undefined,
): Promise<contract.Merge> {
  const { context } = asker;
  const brought = await broughtFile(asker, id, document);
  const admitted = await admit(asker, brought.documentId, ({ document: state, actor }) =>
    firstRefusal(refuseByRole(actor, 'checkIn', 'Bringing in a copy'), refuseUnseenLatest(state, actor)),
  );
  const { document: state } = admitted;
  const name = (await documentNames(asker, [brought.documentId])).get(brought.documentId)?.name;
  if (!name) throw noFile();
  const files = await filesToMerge(context, brought, admitted);
  const about = {
    document: name,
    base: brought.base ? labelIn(state, brought.base) : '',
    latest: labelIn(state, state.latest),
  };
  const nothing = { regions: [], conflicts: 0, sameWriter: true, kept: [] };
  if ('why' in files) return { ...about, format: null, why: files.why, ...nothing };
  const { regions, sameWriter, kept } = await context.readers.merge(files);
  const conflicts = regions.filter(({ merged }) => merged === null).length;
  return { ...about, format: files.reader, why: null, regions, conflicts, sameWriter, kept };
}
