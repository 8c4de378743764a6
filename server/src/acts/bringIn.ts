import type * as contract from '@polychron/contract';
import {
  bringIn,
  type ContentFacts,
  labelIn,
  type MergeChoices,
  refuse,
  refuseBringingIn,
  type Refusal,
} from '@polychron/core';
import { admit } from '../access/admission.ts';
import type { Admitted, Asker } from '../access/caller.ts';
import { readContent, sha256, storeContent } from '../content/contents.ts';
import type { Context } from '../context.ts';
import { noFile, ownFile } from '../reads/deskFiles.ts';
import { type BroughtFile, broughtFile, filesToMerge } from '../reads/merge.ts';
import { Refused } from '../refused.ts';
import type { Tx } from '../store/database.ts';
import { deleteDeskFile } from '../store/deskFiles.ts';
import type { LoadedDocument } from '../store/documents.ts';
import { admitCreating, type NewDocument, performCreate } from './createDocument.ts';
import { marksOf } from './marks.ts';
import { perform, madeAnswer } from './perform.ts';

/**
 * Makes a file of one's own the next version of a document, as it is or merged; it leaves the Desk with that.
 */
export async function performBringIn(
  asker: Asker,
  id: string,
  body: contract.BringIn,
): Promise<contract.MadeVersion> {
  const { context, caller } = asker;
  const brought = await broughtFile(asker, id, body.document);
  const { file, documentId, base } = brought;
  const admitted = await admit(asker, documentId, ({ document, actor }) => refuseBringingIn(document, actor));
  const { document: before } = admitted;
  const merged = body.choices && (await mergedContent(context, brought, admitted, body.choices));
  const content = merged?.facts ?? file.content;
  const given = {
    facts: content,
    bytes: async () => merged?.bytes ?? readContent(context, content.sha256),
  };
  const marks = await marksOf(context, admitted, given);
  const looked = body.latest ?? (merged ? labelIn(before, before.latest) : null);
  const { level, comment, confirm, keepFileName } = body;
  const performed = await perform(
    asker,
    documentId,
    async ({ document, actor }, now, tx) => {
      // Only one of two at once brings it in; the other finds none, whatever it would be asked.
      if (!(await deleteDeskFile(context, caller.id, file, tx))) throw noFile();
      const stale = merged && refuseOtherLatest(before, document, looked);
      if (stale) return stale;
      const { latest } = document;
      const command = {
        level,
        comment,
        confirm,
        keepFileName,
        content,
        base,
        merged: merged !== null && base?.id !== latest.id,
        sameButForMark: marks.sameButForMark && marks.base === latest.content.sha256,
      };
      return bringIn(document, actor, command, now);
    },
    async (tx) => {
      if (merged) await storeContent(context, merged.bytes, merged.facts.sha256, tx);
    },
  );
  return madeAnswer(asker, performed);
}

/** Refuses a merge with another latest version than the present one. */
function refuseOtherLatest(
  before: LoadedDocument,
  document: LoadedDocument,
  looked: string | null,
): Refusal | null {
  const latest = labelIn(document, document.latest);
  if (looked === latest && document.latest.id === before.latest.id) return null;
  const reason = `You merged with ${looked}; the latest is ${latest} now. Look at the merge again.`;
  return refuse('stale', 'merged-with-earlier', reason, { merged: looked, latest });
}

async function mergedContent(
  context: Context,
  brought: BroughtFile,
  admitted: Admitted,
  choices: MergeChoices,
): Promise<{ bytes: Uint8Array; facts: ContentFacts }> {
  const files = await filesToMerge(context, brought, admitted);
  if ('why' in files) throw new Refused(refuse('invalid', 'not-mergeable', files.why));
  const bytes = await context.readers.resolve(files, choices);
  if (!bytes) {
    const question =
      'Both sides changed the same place, and it is not chosen which stays. Choose for each conflict.';
    throw new Refused(refuse('question', 'open-conflicts', question));
  }
  const { fileName, mediaType } = brought.file.content;
  const words = await context.readers.countWords(bytes, mediaType);
  return { bytes, facts: { sha256: sha256(bytes), size: bytes.length, fileName, mediaType, words } };
}

/** Registers a file of one's own as a new document; it leaves the Desk with that. */
export async function performRegisterDeskFile(
  asker: Asker,
  id: string,
  libraryId: string,
  wanted: NewDocument,
): Promise<contract.Document> {
  const { context, caller } = asker;
  await admitCreating(asker, libraryId);
  const file = await ownFile(asker, id);
  const keep = async (tx: Tx): Promise<void> => {
    if (!(await deleteDeskFile(context, caller.id, file, tx))) throw noFile();
  };
  return performCreate(asker, libraryId, wanted, { facts: file.content, keep });
}
