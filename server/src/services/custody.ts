import type * as contract from '@polychron/contract';
import {
  checkIn as decideCheckIn, type CheckIn, checkOut as decideCheckOut, type Decision, discard as decideDiscard, dueChanges, formatLabel, isRefusal, type Outcome,
  prolong as decideProlong, refuse, saveWorkingCopy as decideSave, upload as decideUpload, type Upload,
} from '@polychron/core';
import { storeContent } from '../content/contents.ts';
import type { StagedFile } from '../content/staging.ts';
import type { Context } from '../context.ts';
import { accepted, Refused } from '../refused.ts';
import { applyDecision } from '../store/applyDecision.ts';
import { isDuplicate, transact, type Tx } from '../store/database.ts';
import { loadDocuments, type LoadedDocument, namesOf, toVersion } from '../store/documents.ts';
import { type Access, accessDocument, actorIn, type Caller, findVersion } from './access.ts';
import { documentTag } from './documents.ts';
import { thinLocked } from './keeping.ts';
import { refuseStale } from './precondition.ts';
import { custodyView, documentViews, versionViews } from './views.ts';

/**
 * One act on a document: loads and locks it, asks `decide`, stores the answer, all in one transaction.
 * @returns the label of the version it made, or null
 */
export async function act(
  context: Context, caller: Caller, documentId: string, options: { ifMatch?: string | undefined; before?: (tx: Tx) => Promise<void> },
  decide: (access: Access, now: Date, tx: Tx) => Outcome | Promise<Outcome>,
): Promise<string | null> {
  return transact(context.db, async (tx) => {
    const now = context.clock();
    const access = await takeForceIfDue(context, await accessDocument(context, caller, documentId, tx), now, tx);
    if (options.ifMatch !== undefined) {
      const [view] = await documentViews(context, [access], tx);
      if (view) refuseStale(options.ifMatch, documentTag(view), { latest: view.latest.label, by: view.latest.author.name, at: view.latest.at });
    }
    const decision: Decision = accepted(await decide(access, now, tx));
    await options.before?.(tx);
    const made = await applyDecision(context, access.document, decision, { personId: caller.id, at: now }, tx);
    if (decision.changes.some(({ kind }) => kind === 'addVersion' || kind === 'comeIntoForce')) await thinLocked(context, documentId, now, tx);
    return made;
  });
}

/** A version whose moment has come is in force before anything else is decided, also when no sweep has been by yet. */
async function takeForceIfDue(context: Context, access: Access, now: Date, tx: Tx): Promise<Access> {
  if (!await comeIntoForce(context, access.document, now, tx)) return access;
  return { ...access, document: (await loadDocuments(context, [access.document.id], tx)).get(access.document.id) ?? access.document };
}

/** Brings into force what is due of a locked document; answers whether anything was. */
export async function comeIntoForce(context: Context, document: LoadedDocument, now: Date, tx: Tx): Promise<boolean> {
  const changes = dueChanges(document, now);
  if (changes.length === 0) return false;
  const labels = document.scheduled.filter((version) => changes.some((change) => change.kind === 'comeIntoForce' && change.versionId === version.id)).map((version) => formatLabel(version, document.presentEra));
  await applyDecision(context, document, { changes, ledger: { act: 'comeIntoForce', facts: { versions: labels } } }, { personId: null, at: now }, tx);
  return true;
}

/**
 * A version an act made or changed, as the API tells it: also where the act took it out of the caller's own sight, since they saw it a moment ago.
 */
export async function madeVersion(context: Context, caller: Caller, documentId: string, versionId: string | null): Promise<contract.Version> {
  const row = versionId === null ? null : await context.models.Version.findOne({ where: { id: versionId, documentId } });
  const document = (await loadDocuments(context, [documentId])).get(documentId);
  if (!row || !document) throw new Error('the act made no version');
  const [view] = await versionViews(context, { document, actor: await actorIn(context, caller, document.libraryId) }, [toVersion(row)]);
  return view as contract.Version;
}

/** Who holds a document. */
export async function readCustody(context: Context, caller: Caller, documentId: string): Promise<contract.Custody> {
  const access = await accessDocument(context, caller, documentId);
  const { custody, number } = access.document;
  if (!custody) throw new Refused(refuse('notFound', 'not-checked-out', `${number} is not checked out.`));
  const people = await namesOf(context, [custody.holderId]);
  return custodyView(context, access, (id) => people.get(id) ?? { account: '', name: '' }) as contract.Custody;
}

/** Checks a document out. Of two at once the second is told who holds it. */
export async function checkOut(context: Context, caller: Caller, documentId: string, command: { reason: string | null; until: Date | null }, ifMatch?: string): Promise<contract.Custody> {
  try {
    await act(context, caller, documentId, { ifMatch }, ({ document, actor }, now) => decideCheckOut(document, actor, command, now));
  } catch (error) {
    // The key refused a second check-out that another node let through; that one is committed now and names its holder.
    if (!isDuplicate(error)) throw error;
    await act(context, caller, documentId, {}, ({ document, actor }, now) => decideCheckOut(document, actor, command, now));
  }
  return readCustody(context, caller, documentId);
}

export async function prolong(context: Context, caller: Caller, documentId: string, until: Date): Promise<contract.Custody> {
  await act(context, caller, documentId, {}, ({ document, actor }, now) => decideProlong(document, actor, { until }, now));
  return readCustody(context, caller, documentId);
}

/** Gives a document back without a version. */
export async function discard(context: Context, caller: Caller, documentId: string, ifMatch?: string): Promise<void> {
  await act(context, caller, documentId, { ifMatch }, ({ document, actor }) => decideDiscard(document, actor));
}

/** Refuses early, before an upload is read, whoever does not hold the document. */
export async function refuseUpload(context: Context, caller: Caller, documentId: string): Promise<{ registeredName: string }> {
  const { document, actor } = await accessDocument(context, caller, documentId);
  const { content } = document.latest;
  const outcome = decideSave(document, actor, { ...content, size: 0 }, context.clock());
  if (isRefusal(outcome)) throw new Refused(outcome);
  return { registeredName: content.fileName };
}

/** Keeps an edited file as the working copy. */
export async function saveWorkingCopy(context: Context, caller: Caller, documentId: string, file: StagedFile): Promise<contract.Custody> {
  const bytes = await file.read();
  await act(context, caller, documentId, { before: (tx) => storeContent(context, bytes, file.facts.sha256, tx) },
    ({ document, actor }, now) => decideSave(document, actor, file.facts, now));
  return readCustody(context, caller, documentId);
}

/** The saves of the working copy, oldest first; only for the holder. */
export async function listSaves(context: Context, caller: Caller, documentId: string): Promise<{ position: number; at: string; fileName: string; size: number; sha256: string }[]> {
  await refuseUpload(context, caller, documentId);
  const saves = await context.models.Save.findAll({ where: { documentId }, order: ['position'] });
  return saves.map((save) => ({ position: save.position, at: save.at.toISOString(), fileName: save.fileName, size: Number(save.size), sha256: save.sha256 }));
}

/** What the holder works on: the last save, or the base while nothing was saved. */
export async function readWorkingCopy(context: Context, caller: Caller, documentId: string): Promise<{ sha256: string; size: number; fileName: string; mediaType: string }> {
  const { document, actor } = await accessDocument(context, caller, documentId);
  const { custody } = document;
  if (custody?.holderId !== actor.id) {
    throw new Refused(refuse('forbidden', 'not-holder', `The working copy of ${document.number} is for its holder only.`));
  }
  return custody.workingCopy ?? custody.base.content;
}

/** Checks in, with a file or with what was saved before. */
export async function checkIn(
  context: Context, caller: Caller, documentId: string, command: Omit<CheckIn, 'content'>, file: StagedFile | null, ifMatch?: string,
): Promise<contract.Version> {
  const bytes = await file?.read();
  const before = async (tx: Tx): Promise<void> => { if (file && bytes) await storeContent(context, bytes, file.facts.sha256, tx); };
  const made = await act(context, caller, documentId, { ifMatch, before },
    ({ document, actor }, now) => decideCheckIn(document, actor, { ...command, content: file?.facts ?? null }, now));
  return madeVersion(context, caller, documentId, made);
}

/** Refuses early, before an upload is read, whoever could not upload a version. */
export async function refuseDirectUpload(context: Context, caller: Caller, documentId: string): Promise<void> {
  const { document, actor } = await accessDocument(context, caller, documentId);
  const { latest } = document;
  const outcome = decideUpload(document, actor, {
    level: 'major', comment: 'x', confirm: ['same-bytes'], keepFileName: false, content: { ...latest.content, size: 0 }, basedOn: latest,
  }, context.clock());
  if (isRefusal(outcome)) throw new Refused(outcome);
}

/** A new version without a check-out, where the rules allow. */
export async function uploadVersion(
  context: Context, caller: Caller, documentId: string, command: Omit<Upload, 'content' | 'basedOn'> & { basedOn: string }, file: StagedFile, ifMatch?: string,
): Promise<contract.Version> {
  const bytes = await file.read();
  const made = await act(context, caller, documentId, { ifMatch, before: (tx) => storeContent(context, bytes, file.facts.sha256, tx) }, async (access, now, tx) =>
    decideUpload(access.document, access.actor, { ...command, content: file.facts, basedOn: await findVersion(context, access, command.basedOn, tx) }, now));
  return madeVersion(context, caller, documentId, made);
}
