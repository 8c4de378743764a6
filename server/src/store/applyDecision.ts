import { createHash } from 'node:crypto';
import { v7 as newId } from 'uuid';
import { type Change, chainText, type Decision, type LedgerEntry, newVersion, type NewVersion } from '@polychron/core';
import type { Context } from '../context.ts';
import type { Tx } from './database.ts';
import { rows } from './database.ts';
import { contentOf, type LoadedDocument } from './documents.ts';

/**
 * Carries out what core decided about a document, and writes it into the Ledger, all in the caller's transaction. Contents the changes
 * name must be stored already.
 * @returns the id of the version that was added, or null
 */
export async function applyDecision(
  context: Context, document: LoadedDocument, decision: Decision, who: { personId: string | null; at: Date }, tx: Tx,
): Promise<string | null> {
  const added = await carryOut(context, document, decision.changes, tx, who);
  if (decision.ledger) await appendLedger(context, { ...who, libraryId: document.libraryId, documentId: document.id, ...decision.ledger }, tx);
  return added;
}

/** Carries changes out in their order; answers the id of the version added last, or null. */
export async function carryOut(context: Context, document: Pick<LoadedDocument, 'id' | 'libraryId' | 'lastSequence'>, changes: readonly Change[], tx: Tx, who: Doer = nobody): Promise<string | null> {
  let added: string | null = null;
  let sequence = document.lastSequence;
  const thinned = changes.filter((change) => change.kind === 'thin');
  for (const change of changes) {
    if (change.kind === 'addVersion') added = await addVersion(context, document.id, document.libraryId, sequence += 1, change.version, tx);
    else if (change.kind !== 'thin') await applyChange(context, document.id, change, added, who, tx);
  }
  await thin(context, thinned, tx);
  return added;
}

/** Who changes something, and when. */
interface Doer { personId: string | null; at: Date }
const nobody: Doer = { personId: null, at: new Date(0) };

/** Versions thinned together are written together, for each reason at once. */
async function thin(context: Context, changes: readonly Extract<Change, { kind: 'thin' }>[], tx: Tx): Promise<void> {
  for (const why of new Set(changes.map(({ thinned }) => thinned.why))) {
    const alike = changes.filter(({ thinned }) => thinned.why === why);
    const { at, until } = (alike[0] as (typeof alike)[number]).thinned;
    await context.models.Version.update({ thinnedAt: at, thinnedUntil: until, thinnedWhy: why }, { where: { id: alike.map(({ versionId }) => versionId) }, transaction: tx });
  }
}

/** Stores a version and moves the document's head to it. */
export async function addVersion(context: Context, documentId: string, libraryId: string, sequence: number, version: NewVersion, tx: Tx): Promise<string> {
  const id = newId();
  const { content, origin, fields, ...rest } = version;
  await context.models.Version.create(
    { ...rest, ...content, id, documentId, sequence, fields, originKind: origin.kind, originFrom: origin.from }, { transaction: tx });
  const head = {
    latestId: id, presentEra: version.era, highestMajor: version.major, highestMinor: version.minor, lastSequence: sequence,
    ...(version.standing === 'inForce' ? { inForceId: id } : {}),
  };
  if (sequence === 1) await context.models.Head.create({ inForceId: null, ...head, documentId, libraryId }, { transaction: tx });
  else await context.models.Head.update(head, { where: { documentId }, transaction: tx });
  return id;
}

async function applyChange(context: Context, documentId: string, change: Exclude<Change, { kind: 'addVersion' | 'thin' }>, added: string | null, who: Doer, tx: Tx): Promise<void> {
  const { models } = context;
  const here = { where: { documentId }, transaction: tx };
  const open = { where: { documentId, endedAt: null }, transaction: tx };
  const named = (id: string): string => (id === newVersion ? added as string : id);
  const version = (id: string) => ({ where: { id: named(id) }, transaction: tx });
  switch (change.kind) {
    case 'setState':
      await models.Version.update({ state: change.state }, version(change.versionId));
      return;
    case 'schedule':
      await models.Version.update({ standing: 'scheduled', inForceFrom: change.inForceFrom }, version(change.versionId));
      return;
    case 'comeIntoForce':
      await models.Version.update({ standing: 'inForce', inForceFrom: change.at }, version(change.versionId));
      await models.Head.update({ inForceId: named(change.versionId) }, here);
      return;
    case 'supersede':
      await models.Version.update({ standing: 'superseded', supersededAt: change.at }, version(change.versionId));
      return;
    case 'openRun': {
      const { posts, versionId, ...run } = change.run;
      const runId = newId();
      await models.ApprovalRun.create({ ...run, id: runId, documentId, openDocumentId: documentId, versionId: named(versionId) }, { transaction: tx });
      await models.ApprovalPost.bulkCreate(posts.map(({ personId, decision, at, comment }, position) => ({ runId, position, personId, decision, decidedAt: at, comment })), { transaction: tx });
      return;
    }
    case 'decidePost': {
      const run = await models.ApprovalRun.findOne({ where: { openDocumentId: documentId }, transaction: tx, rejectOnEmpty: true });
      await models.ApprovalPost.update({ decision: change.decision, decidedAt: change.at, comment: change.comment }, { where: { runId: run.id, personId: change.personId }, transaction: tx });
      return;
    }
    case 'closeRun':
      await models.ApprovalRun.update({ openDocumentId: null, endedAt: change.at, outcome: change.outcome }, { where: { openDocumentId: documentId }, transaction: tx });
      return;
    case 'recover':
      await models.Version.update({ thinnedAt: null, thinnedUntil: null, thinnedWhy: null }, version(change.versionId));
      return;
    case 'shelter':
      await models.Version.update({ sheltered: change.sheltered }, version(change.versionId));
      return;
    case 'openCustody':
      await models.Checkout.create({
        documentId, holderId: change.holderId, since: change.since, untilAt: change.until, reason: change.reason, baseId: change.baseId, door: 'web',
      }, { transaction: tx });
      await models.CustodyPeriod.create({ documentId, holderId: change.holderId, since: change.since, untilAt: change.until, reason: change.reason, baseId: change.baseId }, { transaction: tx });
      return;
    case 'setUntil':
      await models.Checkout.update({ untilAt: change.until }, here);
      await models.CustodyPeriod.update({ untilAt: change.until }, open);
      return;
    case 'saveWorkingCopy': {
      const saves = await models.Save.count(here);
      const save = { at: change.at, sitting: change.sitting, ...change.content };
      if (change.replaces) await models.Save.update(save, { where: { documentId, position: saves }, transaction: tx });
      else await models.Save.create({ documentId, position: saves + 1, ...save }, { transaction: tx });
      return;
    }
    case 'setAside':
      await setAside(context, documentId, change.reason, who, tx);
      return;
    case 'emptyWorkingCopy':
      await models.Save.destroy(here);
      return;
    case 'moveBase':
      await models.Checkout.update({ baseId: added as string }, here);
      return;
    case 'closeCustody':
      await models.Checkout.destroy(here);
      await models.CustodyPeriod.update({ endedAt: who.at, how: change.how, endedBy: who.personId, endReason: change.reason, versionId: added }, open);
      return;
  }
}

/** Moves the working copy, with the saves before it, to its holder's Desk. */
async function setAside(context: Context, documentId: string, reason: string, who: Doer, tx: Tx): Promise<void> {
  const { models } = context;
  const checkout = await models.Checkout.findByPk(documentId, { transaction: tx, rejectOnEmpty: true });
  const saves = (await models.Save.findAll({ where: { documentId }, order: ['position'], transaction: tx })).map((save) => save.get({ plain: true }));
  const last = saves.at(-1);
  if (!last) return;
  const id = newId();
  await models.DeskFile.create({
    id, personId: checkout.holderId, kind: 'setAside', documentId, baseId: checkout.baseId, createdAt: who.at, changedAt: last.at, ...contentOf(last), reason, byId: who.personId,
  }, { transaction: tx });
  await models.DeskSave.bulkCreate(saves.slice(0, -1).map((save) => ({ fileId: id, position: save.position, at: save.at, ...contentOf(save) })), { transaction: tx });
}

/** Adds an entry to the Ledger: chained per document, or per library where no document is meant, or to the site's own chain. */
export async function appendLedger(context: Context, entry: Omit<LedgerEntry, 'sequence'>, tx: Tx): Promise<void> {
  const chain = entry.documentId ?? entry.libraryId ?? 'site';
  // The first entry stands for the chain: whoever holds it adds the next. Two that begin a chain meet at its key, and one tries again.
  await rows(context.db, 'SELECT id FROM ledger WHERE chain = :chain AND sequence = 1 FOR UPDATE', { chain }, tx);
  const [last] = await rows<{ sequence: number; hash: string }>(context.db,
    'SELECT sequence, hash FROM ledger WHERE chain = :chain ORDER BY sequence DESC LIMIT 1', { chain }, tx);
  const whole: LedgerEntry = { ...entry, sequence: (last?.sequence ?? 0) + 1 };
  const hash = createHash('sha256').update(chainText(last?.hash ?? '', whole)).digest('hex');
  await context.models.Ledger.create({ ...whole, chain, hash }, { transaction: tx });
}
