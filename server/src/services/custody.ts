import { readFile } from 'node:fs/promises';
import { Op } from 'sequelize';
import type * as contract from '@polychron/contract';
import {
  carriesMark, checkIn as decideCheckIn, type CheckIn, checkOut as decideCheckOut, type ContentFacts, type Decision, discard as decideDiscard, dueChanges, explainVersion, formatLabel,
  isRefusal, largestMarked, lift as decideLift, type Outcome, prolong as decideProlong, refuse, saveWorkingCopy as decideSave, type Taken, upload as decideUpload, type Upload, type Version, type VersionMark,
} from '@polychron/core';
import { readContent, storeContent } from '../content/contents.ts';
import type { StagedFile } from '../content/staging.ts';
import type { ComparedContent } from '../jobs/readers.ts';
import type { Context } from '../context.ts';
import { happeningOf } from '../events.ts';
import { accepted, Refused } from '../refused.ts';
import { applyDecision } from '../store/applyDecision.ts';
import { isDuplicate, transact, type Tx } from '../store/database.ts';
import { contentOf, loadDocuments, type LoadedDocument, namesOf, toVersion } from '../store/documents.ts';
import type { SaveRow } from '../store/models.ts';
import { type Access, accessDocument, actorIn, type Caller, findVersion } from './access.ts';
import { documentTag, readDocument } from './documents.ts';
import { tellPeople } from './notices.ts';
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
  let tell: (() => void) | null = null;
  const made = await transact(context.db, async (tx) => {
    const now = context.clock();
    const access = await takeForceIfDue(context, await accessDocument(context, caller, documentId, tx), now, tx);
    if (options.ifMatch !== undefined) {
      const [view] = await documentViews(context, [access], tx);
      if (view) refuseStale(options.ifMatch, documentTag(view), { latest: view.latest.label, by: view.latest.author.name, at: view.latest.at });
    }
    const decision: Decision = accepted(await decide(access, now, tx));
    await options.before?.(tx);
    const madeId = await applyDecision(context, access.document, decision, { personId: caller.id, at: now }, tx);
    tell = () => context.happenings.tell(happeningOf(access.document, decision));
    if (decision.changes.some(({ kind }) => kind === 'addVersion' || kind === 'comeIntoForce')) await thinLocked(context, documentId, now, tx);
    return madeId;
  });
  // Told once it is kept; a transaction that is tried again tells once.
  (tell as (() => void) | null)?.();
  return made;
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

/** Ends somebody else's check-out; what they saved goes to their Desk, and they are told. */
export async function lift(context: Context, caller: Caller, documentId: string, reason: string): Promise<contract.Document> {
  let told: string[] = [];
  await act(context, caller, documentId, {}, async ({ document, actor }, now, tx) => {
    const outcome = decideLift(document, actor, { reason });
    const { custody } = document;
    if (!isRefusal(outcome) && custody) {
      told = [custody.holderId];
      await tellPeople(context, told, {
        kind: 'lifted', about: `lifted:${documentId}:${custody.since.getTime()}`, documentId, at: now,
        facts: { by: actor.name, reason: reason.trim(), setAside: custody.workingCopy ? 'yes' : null },
      }, tx);
    }
    return outcome;
  });
  context.happenings.tell({ kind: 'notices', personIds: told });
  return (await readDocument(context, caller, documentId)).view;
}

/** Refuses early, before an upload is read, whoever does not hold the document. */
export async function refuseUpload(context: Context, caller: Caller, documentId: string): Promise<{ registeredName: string }> {
  const { document, actor } = await accessDocument(context, caller, documentId);
  const { content } = document.latest;
  const outcome = decideSave(document, actor, { ...content, size: 0 }, context.clock());
  if (isRefusal(outcome)) throw new Refused(outcome);
  return { registeredName: content.fileName };
}

/**
 * Keeps an edited file as the working copy.
 * @param options.sitting given by an editor that saves by itself
 * @param options.ifMatch the working copy it was edited from; another one since then is refused, so that two windows do not overwrite each other
 */
export async function saveWorkingCopy(
  context: Context, caller: Caller, documentId: string, file: StagedFile, options: { sitting?: string | undefined; ifMatch?: string | undefined } = {},
): Promise<contract.Custody> {
  await act(context, caller, documentId, { before: (tx) => storeContent(context, file, file.facts.sha256, tx) }, ({ document, actor }, now) => {
    const { custody } = document;
    const present = custody && (custody.workingCopy ?? custody.base.content).sha256;
    if (options.ifMatch !== undefined && custody?.holderId === actor.id && options.ifMatch !== '*' && options.ifMatch !== `"${present}"`) {
      return refuse('stale', 'working-copy-changed', 'The working copy was saved from elsewhere since this text was loaded. Load it, or save yours over it.', { present });
    }
    return decideSave(document, actor, file.facts, now, options.sitting ?? null);
  });
  return readCustody(context, caller, documentId);
}

/** The saves of the working copy, oldest first; only for the holder. */
export async function listSaves(context: Context, caller: Caller, documentId: string): Promise<contract.Save[]> {
  await refuseUpload(context, caller, documentId);
  const saves = await context.models.Save.findAll({ where: { documentId }, order: ['position'] });
  return saves.map(saveView);
}

/** A save as the API tells it. */
export const saveView = ({ position, at, fileName, size, sha256 }: Pick<SaveRow, 'position' | 'at' | 'fileName' | 'size' | 'sha256'>): contract.Save =>
  ({ position, at: at.toISOString(), fileName, size: Number(size), sha256 });

/** One save of the working copy; only for the holder. */
export async function readSave(context: Context, caller: Caller, documentId: string, position: number): Promise<ContentFacts> {
  await refuseUpload(context, caller, documentId);
  const save = await context.models.Save.findOne({ where: { documentId, position } });
  if (!save) throw new Refused(refuse('notFound', 'save-not-found', `The working copy has no step ${position}.`, { position }));
  return contentOf(save);
}

/** Makes an earlier save the working copy again, as a new step: the steps in between stay. */
export async function goBackToSave(context: Context, caller: Caller, documentId: string, position: number): Promise<contract.Custody> {
  const content = await readSave(context, caller, documentId, position);
  await act(context, caller, documentId, {}, ({ document, actor }, now) => decideSave(document, actor, content, now));
  return readCustody(context, caller, documentId);
}

/** What the holder works on: the last save, or the base while nothing was saved. */
export async function readWorkingCopy(context: Context, caller: Caller, documentId: string): Promise<{ content: ContentFacts; base: Version; number: string; label: string }> {
  const { document, actor } = await accessDocument(context, caller, documentId);
  const { custody } = document;
  if (custody?.holderId !== actor.id || actor.lookingAs) {
    throw new Refused(refuse('forbidden', 'not-holder', `The working copy of ${document.number} is for its holder only.`));
  }
  return { content: custody.workingCopy ?? custody.base.content, base: custody.base, number: document.number, label: formatLabel(custody.base, document.presentEra) };
}

/** What the working copy changed against its base so far. */
export async function compareSoFar(context: Context, caller: Caller, documentId: string): Promise<contract.Comparison> {
  const { content, base, label } = await readWorkingCopy(context, caller, documentId);
  const side = (of: ContentFacts): ComparedContent => ({ sha256: of.sha256, mediaType: of.mediaType, fields: base.fields, bytes: () => readContent(context, of.sha256) });
  return { from: label, to: 'working copy', ...await context.readers.compare(side(base.content), side(content)) } as contract.Comparison;
}

/** Who held the document, newest first; whoever does not see a base is told no more than who and when. */
export async function custodyHistory(context: Context, caller: Caller, documentId: string, page: { cursor?: string | undefined; limit: number }): Promise<contract.CustodyHistory> {
  const access = await accessDocument(context, caller, documentId);
  const { models } = context;
  const before = page.cursor !== undefined && /^\d+$/.test(page.cursor) ? { id: { [Op.lt]: page.cursor } } : {};
  const found = await models.CustodyPeriod.findAll({ where: { documentId, ...before }, order: [['id', 'DESC']], limit: page.limit + 1 });
  const shown = found.slice(0, page.limit);
  const versions = new Map((await models.Version.findAll({ where: { id: shown.flatMap(({ baseId, versionId }) => [baseId, ...(versionId === null ? [] : [versionId])]) } })).map((row) => [row.id, toVersion(row)]));
  const people = await namesOf(context, shown.flatMap(({ holderId, endedBy }) => [holderId, ...(endedBy === null ? [] : [endedBy])]));
  const person = (id: string | null): contract.Person | null => (id === null ? null : people.get(id) ?? { account: '', name: '' });
  const seen = (id: string | null): string | null => {
    const version = id === null ? undefined : versions.get(id);
    return version && explainVersion(access.document, access.actor, version).sees ? formatLabel(version, access.document.presentEra) : null;
  };
  return {
    items: shown.map((period) => {
      const base = seen(period.baseId);
      const known = base !== null;
      return {
        holder: person(period.holderId) as contract.Person, since: period.since.toISOString(), until: known ? period.untilAt?.toISOString() ?? null : null,
        reason: known ? period.reason : null, base, endedAt: period.endedAt?.toISOString() ?? null, how: known ? period.how : null,
        endedBy: known ? person(period.endedBy) : null, endReason: known ? period.endReason : null, version: seen(period.versionId),
      };
    }),
    next: found.length > page.limit ? String(shown.at(-1)?.id) : null, total: await models.CustodyPeriod.count({ where: { documentId } }),
  };
}

/** What a file says of itself, held against a content: of which two it was found. */
interface Marks { taken: Taken | null; sameButForMark: boolean; given: string; base: string }

/**
 * What a file says of itself, held against the version it is to replace: the version it was taken from, and whether it differs from the
 * base in that mark only. Reads files, so it is asked before the act's transaction; `holding` drops what does not hold any more.
 */
export async function marksOf(context: Context, documentId: string, given: { facts: ContentFacts; bytes: () => Promise<Uint8Array> }, base: ContentFacts): Promise<Marks> {
  const none = { taken: null, sameButForMark: false, given: given.facts.sha256, base: base.sha256 };
  if (!looksFor(given.facts)) return none;
  const look = await context.readers.look(given.facts.sha256, given.bytes);
  const version = look.mark && await context.models.Version.findOne({ where: { id: look.mark.versionId, documentId } });
  const of = base.size > largestMarked || given.facts.sha256 === base.sha256 ? null : await context.readers.look(base.sha256, () => readContent(context, base.sha256));
  return { ...none, taken: look.mark && { ...look.mark, sha256: version?.sha256 ?? null }, sameButForMark: of !== null && look.substance !== null && of.substance === look.substance };
}

const looksFor = (facts: ContentFacts): boolean => carriesMark(facts.fileName) && facts.size <= largestMarked;

/** The mark in a file; null for one without. */
export async function markIn(context: Context, given: { facts: ContentFacts; bytes: () => Promise<Uint8Array> }): Promise<VersionMark | null> {
  return looksFor(given.facts) ? (await context.readers.look(given.facts.sha256, given.bytes)).mark : null;
}

const holding = (marks: Marks | null, given: ContentFacts, base: ContentFacts): Pick<CheckIn, 'taken' | 'sameButForMark'> =>
  (marks?.given === given.sha256 ? { taken: marks.taken, sameButForMark: marks.sameButForMark && marks.base === base.sha256 } : {});

/** Checks in, with a file or with what was saved before. */
export async function checkIn(
  context: Context, caller: Caller, documentId: string, command: Omit<CheckIn, 'content' | 'taken' | 'sameButForMark'>, file: StagedFile | null, ifMatch?: string,
): Promise<contract.Version> {
  const before = async (tx: Tx): Promise<void> => { if (file) await storeContent(context, file, file.facts.sha256, tx); };
  const { custody: held } = (await accessDocument(context, caller, documentId)).document;
  const facts = file?.facts ?? held?.workingCopy;
  const bytes = (): Promise<Uint8Array> => (file ? readFile(file.path) : readContent(context, facts?.sha256 ?? ''));
  const marks = held?.holderId === caller.id && facts ? await marksOf(context, documentId, { facts, bytes }, held.base.content) : null;
  const made = await act(context, caller, documentId, { ifMatch, before }, ({ document, actor }, now) => {
    const { custody } = document;
    const given = file?.facts ?? custody?.workingCopy;
    return decideCheckIn(document, actor, { ...command, ...(custody && given ? holding(marks, given, custody.base.content) : {}), content: file?.facts ?? null }, now);
  });
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
  context: Context, caller: Caller, documentId: string, command: Omit<Upload, 'content' | 'basedOn' | 'taken' | 'sameButForMark'> & { basedOn: string }, file: StagedFile, ifMatch?: string,
): Promise<contract.Version> {
  const { latest } = (await accessDocument(context, caller, documentId)).document;
  const marks = await marksOf(context, documentId, { facts: file.facts, bytes: () => readFile(file.path) }, latest.content);
  const made = await act(context, caller, documentId, { ifMatch, before: (tx) => storeContent(context, file, file.facts.sha256, tx) }, async (access, now, tx) => decideUpload(access.document, access.actor, {
    ...command, ...holding(marks, file.facts, access.document.latest.content), content: file.facts, basedOn: await findVersion(context, access, command.basedOn, tx),
  }, now));
  return madeVersion(context, caller, documentId, made);
}
