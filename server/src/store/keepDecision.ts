import {
  type Change,
  type Decision,
  openDocument,
  type Opening,
  reduce,
  type Reduced,
  type Version,
} from '@polychron/core';
import { literal } from 'sequelize';
import { v7 as newId } from 'uuid';
import type { Tx } from './database.ts';
import { type LoadedDocument, noteNamed } from './documents.ts';
import { foundBy, foundOf, keepFound } from './foundBy.ts';
import { addKinds } from './kindCounts.ts';
import { insertReading, keepCircles, keepNamed } from './named.ts';
import { addBytesKept } from './libraries.ts';
import { appendLedger } from './ledger.ts';
import { keepNewest } from './newest.ts';
import { insertNotices, markAskedAnew } from './notices.ts';
import {
  changedOf,
  keepEarlierUntil,
  keepTeamPeriod,
  keepVersionPeriods,
  type Standing,
  standingOf,
} from './periods.ts';
import { insertReview, keepReviewBy } from './reviews.ts';
import type { Store } from './store.ts';
import { contentOf, findVersions } from './versions.ts';

/** Who does something, and when; null for what time or rules do. */
export interface Doer {
  personId: string | null;
  at: Date;
}

/**
 * Keeps what core decided about a document, tells who is to be told, and writes it into the Ledger, all in
 * the caller's transaction. Versions and the head are kept as `reduce` says they are; tables that hold more
 * than the present state are written by the changes. Contents the changes name must be stored already.
 */
export async function keepDecision(
  store: Store,
  document: LoadedDocument,
  decision: Decision,
  kept: { by: Doer; tx: Tx },
): Promise<Reduced<LoadedDocument>> {
  const { by, tx } = kept;
  const named = decision.changes.flatMap((change) => ('versionId' in change ? [change.versionId] : []));
  const versions = (await findVersions(store, unknownTo(document, named), tx)).values();
  const reduced = reduce(document, decision.changes, { newId, versions });
  await keepVersions(store, document, reduced, tx);
  await keepVersionPeriods(store, document, reduced, { at: by.at, tx });
  await keepHead(store, document, reduced, tx);
  const writing = { store, documentId: document.id, addedId: reduced.added?.id ?? null, by, tx };
  for (const change of decision.changes) await keepChange(writing, change);
  if (callsForReview(document.inForce, decision, reduced)) await keepReviewBy(store, document.id, tx);
  if (reduced.versions.length > 0 || decision.changes.some(changesTeam)) {
    await keepNewest(store.db, [document.id], tx);
  }
  await tellAndRecord(store, document, decision, kept);
  return reduced;
}

/** Keeps a new document's first version; its own row is there already. */
export async function keepOpening(
  store: Store,
  opening: Opening & { libraryId: string },
  decision: Decision,
  kept: { by: Doer; tx: Tx },
): Promise<Reduced> {
  const { by, tx } = kept;
  const { id, libraryId } = opening;
  const reduced = openDocument(opening, decision.changes, { newId });
  await keepVersions(store, opening, reduced, tx);
  await keepVersionPeriods(store, opening, reduced, { at: by.at, tx });
  const head = { documentId: id, libraryId, ...headOf(reduced), bytesKept: bytesAdded(reduced) };
  await store.models.Head.create(head, { transaction: tx });
  await addBytesKept(store, libraryId, bytesAdded(reduced), tx);
  const writing = { store, documentId: id, addedId: reduced.added?.id ?? null, by, tx };
  for (const change of decision.changes) await keepChange(writing, change);
  if (callsForReview(null, decision, reduced)) await keepReviewBy(store, id, tx);
  await keepNewest(store.db, [id], tx);
  await tellAndRecord(store, { id, libraryId }, decision, kept);
  return reduced;
}

async function tellAndRecord(
  store: Store,
  document: { id: string; libraryId: string },
  { ledger, notices = [] }: Decision,
  { by, tx }: { by: Doer; tx: Tx },
): Promise<void> {
  const { id: documentId, libraryId } = document;
  for (const { personIds, ...notice } of notices) {
    const told = { ...notice, documentId, at: by.at };
    if (notice.kind === 'toFinish') await markAskedAnew(store, personIds, told, tx);
    await insertNotices(store, personIds, told, tx);
  }
  if (ledger) await appendLedger(store, { ...by, libraryId, documentId, ...ledger }, tx);
}

/** Whether another version is in force now, or the one in force was reviewed. */
const callsForReview = (before: Version | null, { changes }: Decision, { state }: Reduced): boolean =>
  before?.id !== state.inForce?.id || changes.some(({ kind }) => kind === 'review');

/** Whether a change makes somebody one of the document's team, or no longer, or leaves it out of lists. */
const changesTeam = ({ kind }: Change): boolean =>
  ['openCustody', 'closeCustody', 'passCustody', 'setPeople', 'setLimit', 'setVoided'].includes(kind);

/** Ids of versions that a document's state does not hold. */
function unknownTo(document: LoadedDocument, ids: readonly string[]): string[] {
  const { latest, inForce, scheduled, custody } = document;
  const held = new Set([latest.id, inForce?.id, custody?.base.id, ...scheduled.map(({ id }) => id)]);
  return ids.filter((id) => id !== 'new' && !held.has(id));
}

const headOf = ({ state }: Reduced) => ({
  latestId: state.latest.id,
  inForceId: state.inForce?.id ?? null,
  presentEra: state.presentEra,
  highestMajor: state.highest.major,
  highestMinor: state.highest.minor,
  lastSequence: state.latest.sequence,
});

const bytesOf = (version: Version | null): number =>
  version === null || version.thinned ? 0 : version.content.size;

/** By how much what a document keeps grows, or shrinks. */
const bytesAdded = ({ versions }: Reduced): number =>
  versions.reduce((sum, { before, after }) => sum + bytesOf(after) - bytesOf(before), 0);

async function keepHead(
  store: Store,
  { id: documentId, libraryId }: Pick<LoadedDocument, 'id' | 'libraryId'>,
  reduced: Reduced,
  tx: Tx,
): Promise<void> {
  if (reduced.versions.length === 0) return;
  const bytes = Math.trunc(bytesAdded(reduced));
  const bytesKept = bytes === 0 ? {} : { bytesKept: literal(`bytes_kept + (${bytes})`) };
  await store.models.Head.update(
    { ...headOf(reduced), ...bytesKept },
    { where: { documentId }, transaction: tx },
  );
  await addBytesKept(store, libraryId, bytes, tx);
}

/** The document that versions are kept of. */
type Kept = Pick<LoadedDocument, 'id' | 'libraryId' | 'number'>;

/**
 * Writes versions that were added, in their order, and what changed of others; those that change alike at
 * once.
 */
async function keepVersions(store: Store, document: Kept, reduced: Reduced, tx: Tx): Promise<void> {
  const { Version: Table } = store.models;
  const { id: documentId, libraryId, number } = document;
  const alike = new Map<string, { changed: Partial<Standing>; ids: string[] }>();
  for (const { before, after } of reduced.versions) {
    if (!before) {
      const found = foundOf(after, { libraryId, documentId, number });
      await Table.create({ ...rowOf(documentId, after), foundBy: foundBy(found) }, { transaction: tx });
      await keepFound(store.db, [found], tx);
      continue;
    }
    const changed = changedOf(before, after);
    const key = JSON.stringify(changed);
    const ids = alike.get(key)?.ids ?? [];
    alike.set(key, { changed, ids: [...ids, after.id] });
  }
  for (const { changed, ids } of alike.values()) {
    if (Object.keys(changed).length === 0) continue;
    await Table.update(changed, { where: { id: ids }, transaction: tx });
  }
  await addKinds(store.db, documentId, reduced.versions, tx);
}

function rowOf(documentId: string, version: Version) {
  const { content, origin, fields, thinned: _, withdrawn: __, ...rest } = version;
  return {
    ...rest,
    ...content,
    ...standingOf(version),
    documentId,
    fields,
    originKind: origin.kind,
    originFrom: origin.from,
  };
}

interface Writing {
  store: Store;
  documentId: string;
  /** The version that `new` stands for. */
  addedId: string | null;
  by: Doer;
  tx: Tx;
}

/**
 * Writes what a change leaves beside the present state: runs and posts, check-outs and their history, saves,
 * files set aside.
 */
const unopened = { lockToken: null, lockOwner: null, lockUntil: null, askedAt: null };

async function keepChange(writing: Writing, change: Change): Promise<void> {
  const { store, documentId, addedId, by, tx } = writing;
  const { models } = store;
  const here = { where: { documentId }, transaction: tx };
  const openPeriod = { where: { documentId, endedAt: null }, transaction: tx };
  switch (change.kind) {
    case 'openRun':
      await openRun(writing, change.run);
      return;
    case 'decidePost':
      await decidePost(writing, change);
      return;
    case 'decideInPlace':
      await decideInPlace(writing, change);
      return;
    case 'replacePost':
      await replacePost(writing, change);
      return;
    case 'closeRun':
      await models.ApprovalRun.update(
        { openDocumentId: null, endedAt: change.at, outcome: change.outcome },
        { where: { openDocumentId: documentId }, transaction: tx },
      );
      return;
    case 'openCustody': {
      const { holderId, since, until: untilAt, reason, baseId, door } = change;
      const row = { documentId, holderId, since, untilAt, reason, baseId, door };
      await models.Checkout.create(row, { transaction: tx });
      await models.CustodyPeriod.create(row, { transaction: tx });
      return;
    }
    case 'setUntil':
      await keepEarlierUntil(store, documentId, by.at, tx);
      await models.Checkout.update({ untilAt: change.until }, here);
      await models.CustodyPeriod.update({ untilAt: change.until }, openPeriod);
      return;
    case 'saveWorkingCopy': {
      const saves = await models.Save.count(here);
      const save = { at: change.at, sitting: change.sitting, ...change.content };
      const where = { documentId, position: saves };
      if (change.replaces) await models.Save.update(save, { where, transaction: tx });
      else await models.Save.create({ documentId, position: saves + 1, ...save }, { transaction: tx });
      return;
    }
    case 'emptyWorkingCopy':
      await models.Save.destroy(here);
      await models.Checkout.update({ askedAt: null }, here);
      return;
    case 'setAsked':
      await models.Checkout.update({ askedAt: change.at }, here);
      return;
    case 'setLock': {
      const { token = null, owner = null, until = null } = change.lock ?? {};
      await models.Checkout.update({ lockToken: token, lockOwner: owner, lockUntil: until }, here);
      return;
    }
    case 'moveBase':
      if (addedId !== null) await models.Checkout.update({ baseId: addedId }, here);
      return;
    case 'setAside':
      await setAside(writing, change.reason);
      return;
    case 'closeCustody': {
      const { how, reason: endReason } = change;
      await models.Checkout.destroy(here);
      await models.CustodyPeriod.update(
        { endedAt: by.at, how, endedBy: by.personId, endReason, versionId: addedId },
        openPeriod,
      );
      return;
    }
    case 'passCustody': {
      const { holderId, at, reason } = change;
      const checkout = await models.Checkout.findByPk(documentId, { transaction: tx, rejectOnEmpty: true });
      await models.Checkout.update({ holderId, since: at, ...unopened }, here);
      await models.CustodyPeriod.update(
        { endedAt: at, how: 'handedOver', endedBy: by.personId, endReason: reason },
        openPeriod,
      );
      const { untilAt, reason: why, baseId, door } = checkout;
      await models.CustodyPeriod.create(
        { documentId, holderId, since: at, untilAt, reason: why, baseId, door },
        { transaction: tx },
      );
      return;
    }
    case 'review': {
      const { reviewedId: versionId, outcome, comment, nextBy, at } = change;
      const review = { documentId, versionId, personId: by.personId, at, outcome, comment, nextBy };
      await insertReview(store, review, tx);
      return;
    }
    case 'passAside':
      await models.DeskFile.update(
        { personId: change.toId },
        { where: { documentId, personId: change.fromId, kind: 'setAside' }, transaction: tx },
      );
      return;
    case 'setPeople': {
      const { owner, coAuthorIds, approvers } = change;
      const changed = {
        ...(owner ? { ownerId: owner.id } : {}),
        ...(coAuthorIds ? { coAuthorIds: [...coAuthorIds] } : {}),
        ...(approvers ? { approverIds: [...approvers.own] } : {}),
      };
      await models.Document.update(changed, { where: { id: documentId }, transaction: tx });
      if (coAuthorIds || approvers) await noteNamed(store, documentId, tx);
      await keepCircles(store, [documentId], tx);
      if (owner || coAuthorIds) await keepTeamPeriod(store, documentId, by.at, tx);
      return;
    }
    case 'setLimit':
      await keepNamed(store, { documentId, purpose: 'limit' }, change.limit, { at: by.at, tx });
      await keepCircles(store, [documentId], tx);
      await keepTeamPeriod(store, documentId, by.at, tx);
      return;
    case 'setDistribution':
      await keepNamed(store, { documentId, purpose: 'reading' }, change.distribution, { at: change.at, tx });
      return;
    case 'confirmRead': {
      const { versionId, personId, at } = change;
      await insertReading(store, { versionId, personId, documentId, at }, tx);
      return;
    }
    case 'setVoided': {
      const { at = null, byId = null, reason = null } = change.voided ?? {};
      const changed = { voidedAt: at, voidedBy: byId, voidedReason: reason };
      await models.Document.update(changed, { where: { id: documentId }, transaction: tx });
      await keepTeamPeriod(store, documentId, by.at, tx);
      return;
    }
    case 'setTemplate': {
      const changed = { templateFor: change.type };
      await models.Document.update(changed, { where: { id: documentId }, transaction: tx });
      await keepTeamPeriod(store, documentId, by.at, tx);
      return;
    }
    case 'setAdministrative': {
      const changed = { administrative: change.values };
      await models.Document.update(changed, { where: { id: documentId }, transaction: tx });
      await keepTeamPeriod(store, documentId, by.at, tx);
      return;
    }
    // What becomes of versions is kept with them.
    case 'addVersion':
    case 'setState':
    case 'schedule':
    case 'comeIntoForce':
    case 'supersede':
    case 'withdraw':
    case 'reinstate':
    case 'thin':
    case 'recover':
    case 'shelter':
      return;
  }
}

async function openRun(writing: Writing, run: Extract<Change, { kind: 'openRun' }>['run']): Promise<void> {
  const { store, documentId, addedId, tx } = writing;
  const { posts, versionId, submitterName: _, ...rest } = run;
  const runId = newId();
  const about = versionId === 'new' && addedId !== null ? addedId : versionId;
  await store.models.ApprovalRun.create(
    { ...rest, id: runId, documentId, openDocumentId: documentId, versionId: about },
    { transaction: tx },
  );
  await store.models.ApprovalPost.bulkCreate(
    posts.map(({ personId, decision, at, comment }, position) => ({
      runId,
      position,
      personId,
      decision,
      decidedAt: at,
      comment,
    })),
    { transaction: tx },
  );
}

async function replacePost(
  { store, documentId, tx }: Writing,
  { fromId, to }: Extract<Change, { kind: 'replacePost' }>,
): Promise<void> {
  const run = await store.models.ApprovalRun.findOne({
    where: { openDocumentId: documentId },
    transaction: tx,
    rejectOnEmpty: true,
  });
  await store.models.ApprovalPost.update(
    { personId: to.id, decision: null, decidedAt: null, comment: '' },
    { where: { runId: run.id, personId: fromId }, transaction: tx },
  );
}

async function decidePost(
  { store, documentId, tx }: Writing,
  change: Extract<Change, { kind: 'decidePost' }>,
): Promise<void> {
  const run = await store.models.ApprovalRun.findOne({
    where: { openDocumentId: documentId },
    transaction: tx,
    rejectOnEmpty: true,
  });
  const { decision, at: decidedAt, comment, personId } = change;
  await store.models.ApprovalPost.update(
    { decision, decidedAt, comment },
    { where: { runId: run.id, personId }, transaction: tx },
  );
}

/** Adds the post of who decides in the place of others, or marks theirs where they are asked too. */
async function decideInPlace(
  { store, documentId, tx }: Writing,
  change: Extract<Change, { kind: 'decideInPlace' }>,
): Promise<void> {
  const { ApprovalPost: Post, ApprovalRun: Run } = store.models;
  const where = { openDocumentId: documentId };
  const { id: runId } = await Run.findOne({ where, transaction: tx, rejectOnEmpty: true });
  const { personId, decision, at: decidedAt, comment } = change;
  await Post.destroy({ where: { runId, personId }, transaction: tx });
  const last: number | null = await Post.max('position', { where: { runId }, transaction: tx });
  const position = (last ?? -1) + 1;
  const said = { decision, decidedAt, comment, inPlace: true };
  await Post.create({ runId, position, personId, ...said }, { transaction: tx });
}

/** Moves the working copy, with the saves before it, to its holder's Desk. */
async function setAside({ store, documentId, by, tx }: Writing, reason: string): Promise<void> {
  const { models } = store;
  const checkout = await models.Checkout.findByPk(documentId, { transaction: tx, rejectOnEmpty: true });
  const found = await models.Save.findAll({ where: { documentId }, order: ['position'], transaction: tx });
  const saves = found.map((save) => save.get({ plain: true }));
  const last = saves.at(-1);
  if (!last) return;
  const id = newId();
  const file = {
    id,
    personId: checkout.holderId,
    kind: 'setAside' as const,
    documentId,
    baseId: checkout.baseId,
    createdAt: by.at,
    changedAt: last.at,
    ...contentOf(last),
    reason,
    byId: by.personId,
  };
  await models.DeskFile.create(file, { transaction: tx });
  const earlier = saves
    .slice(0, -1)
    .map((save) => ({ fileId: id, position: save.position, at: save.at, ...contentOf(save) }));
  await models.DeskSave.bulkCreate(earlier, { transaction: tx });
}
