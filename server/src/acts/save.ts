import type * as contract from '@polychron/contract';
import {
  type ContentFacts,
  type Decision,
  isRefusal,
  type Outcome,
  refuse,
  type Refusal,
  type Save,
  saveWorkingCopy,
} from '@polychron/core';
import { heldByCaller } from '../access/admission.ts';
import type { Access, Asker } from '../access/caller.ts';
import { contentTag, matches } from '../access/preconditions.ts';
import { storeContent } from '../content/contents.ts';
import type { StagedFile } from '../content/staging.ts';
import { custodyAnswer, readSave, requireHolder } from '../reads/custody.ts';
import { noFile, ownFile } from '../reads/deskFiles.ts';
import type { Tx } from '../store/database.ts';
import { deleteDeskFile } from '../store/deskFiles.ts';
import { refuseFullDesk } from './deskRoom.ts';
import { perform } from './perform.ts';

/**
 * Lets only the holder through, before an upload is read; returns the name the document's file is registered
 * under.
 */
export async function admitSave(asker: Asker, documentId: string): Promise<string> {
  const held = await heldByCaller(asker, documentId);
  if (held) return held.base.fileName;
  return (await requireHolder(asker, documentId)).document.latest.content.fileName;
}

/**
 * Keeps an edited file as the working copy. `ifMatch` names the working copy it was edited from: another one
 * since then is refused, so that two windows do not overwrite each other.
 * @param sitting given by an editor that saves by itself
 */
export async function performSave(
  asker: Asker,
  documentId: string,
  file: StagedFile,
  sitting: string | null = null,
): Promise<contract.Custody> {
  const { ifMatch, ...by } = asker;
  const command = { content: file.facts, sitting };
  const { access } = await perform(
    by,
    documentId,
    async (held, now, tx) =>
      refuseOtherCopy(held, ifMatch) ?? (await decideSave(by, held, command, { now, tx })),
    (tx) => storeContent(asker.context, file, file.facts.sha256, tx),
  );
  return custodyAnswer(asker.context, access);
}

/** What core says to a save, once the holder's Desk has room for it. @throws Refused `desk-full` */
async function decideSave(
  asker: Asker,
  { document, actor }: Access,
  command: Save,
  { now, tx }: { now: Date; tx: Tx },
): Promise<Outcome> {
  const decision = saveWorkingCopy(document, actor, command, now);
  if (!isRefusal(decision))
    await refuseFullDesk(asker, { files: 0, bytes: bytesSaved(document, decision) }, tx);
  return decision;
}

/** By how much a save lets the working copy's steps grow; one that becomes a draft is the library's. */
function bytesSaved({ custody }: Access['document'], { changes }: Decision): number {
  return changes.reduce((sum, change) => {
    if (change.kind !== 'saveWorkingCopy') return sum;
    return sum + change.content.size - (change.replaces ? (custody?.workingCopy?.size ?? 0) : 0);
  }, 0);
}

function refuseOtherCopy(
  { document: { custody }, actor }: Access,
  ifMatch: string | undefined,
): Refusal | null {
  if (custody?.holderId !== actor.id) return null;
  const present = (custody.workingCopy ?? custody.base.content).sha256;
  if (matches(ifMatch, contentTag(present))) return null;
  const reason =
    'The working copy was saved from elsewhere since this text was loaded. Load it, or save your text over it.';
  return refuse('stale', 'working-copy-changed', reason, { present });
}

/**
 * Makes a file of one's own the working copy of a document one holds, as one more save; it leaves the Desk
 * with that.
 */
export async function performSaveFromDesk(
  asker: Asker,
  fileId: string,
  documentId: string,
): Promise<contract.Custody> {
  const { context, caller } = asker;
  const file = await ownFile(asker, fileId);
  const command = { content: file.content, sitting: null };
  const { access } = await perform(
    asker,
    documentId,
    (held, now, tx) => decideSave(asker, held, command, { now, tx }),
    async (tx) => {
      // Only one of two at once has it.
      if (!(await deleteDeskFile(context, caller.id, file, tx))) throw noFile();
    },
  );
  return custodyAnswer(context, access);
}

/** Makes an earlier save the working copy again, as a new step: the steps in between stay. */
export async function performGoBackToSave(
  asker: Asker,
  documentId: string,
  position: number,
): Promise<contract.Custody> {
  const content: ContentFacts = await readSave(asker, documentId, position);
  const { access } = await perform(asker, documentId, (held, now, tx) =>
    decideSave(asker, held, { content }, { now, tx }),
  );
  return custodyAnswer(asker.context, access);
}
