import { v7 as newId } from 'uuid';
import type * as contract from '@polychron/contract';
import {
  admitRulebook, type AskedRulebook, limitsAnything, limitsAt, may, paceOf, presetsFor, refuse, refuseReason, type Rulebook, rulebookDifference, takeUpRules,
} from '@polychron/core';
import type { Context } from '../context.ts';
import { accepted, Refused } from '../refused.ts';
import { appendLedger, applyDecision } from '../store/applyDecision.ts';
import { rows, transact, type Tx } from '../store/database.ts';
import { loadDocuments, namesOf } from '../store/documents.ts';
import { parseJson, type RulebookRevisionRow } from '../store/models.ts';
import { accessLibrary, type Caller } from './access.ts';
import { refuseStale } from './precondition.ts';
import { entityTag } from './views.ts';

const tagOf = (revision: number): string => entityTag(revision, `${revision}`);

/** The rules in force, with who set them and why, and their entity tag. */
export async function readRulebook(context: Context, caller: Caller, libraryId: string): Promise<{ view: contract.RulebookView; tag: string }> {
  const { library } = await accessLibrary(context, caller, libraryId, { administrators: true });
  const [view] = await revisionViews(context, libraryId, await revisionsFrom(context, libraryId, library.rulebookRevision, 1));
  if (!view) throw new Error(`library ${libraryId} has no rulebook`);
  return { view, tag: tagOf(library.rulebookRevision) };
}

/** Revisions newest first; a cursor is the number of the last one of the page before. */
export async function readRulebookHistory(context: Context, caller: Caller, libraryId: string, page: { cursor?: string | undefined; limit: number }): Promise<contract.RulebookHistory> {
  const { library } = await accessLibrary(context, caller, libraryId, { administrators: true });
  const from = page.cursor === undefined ? library.rulebookRevision : Number(page.cursor) - 1;
  const found = await revisionsFrom(context, libraryId, Number.isFinite(from) ? from : 0, page.limit);
  const last = found.at(-1)?.revision ?? 1;
  return { items: await revisionViews(context, libraryId, found), next: last > 1 ? String(last) : null, total: library.rulebookRevision };
}

async function revisionsFrom(context: Context, libraryId: string, newest: number, most: number): Promise<RulebookRevisionRow[]> {
  const found = await context.models.RulebookRevision.findAll({ where: { libraryId }, order: [['revision', 'DESC']] });
  return found.filter(({ revision }) => revision <= newest).slice(0, most);
}

async function revisionViews(context: Context, libraryId: string, revisions: readonly RulebookRevisionRow[]): Promise<contract.RulebookView[]> {
  const people = await namesOf(context, revisions.map(({ personId }) => personId));
  const before = new Map((await context.models.RulebookRevision.findAll({ where: { libraryId, revision: revisions.map(({ revision }) => revision - 1) } })).map((row) => [row.revision, row]));
  const jobs = new Map((await context.models.Job.findAll({ where: { libraryId, revision: revisions.map(({ revision }) => revision) } })).map((job) => [job.revision, job.id]));
  return revisions.map((row) => {
    const rulebook = parseJson<Rulebook>(row.rulebook);
    const earlier = before.get(row.revision - 1);
    return {
      revision: row.revision, at: row.at.toISOString(), by: people.get(row.personId)?.name ?? '', reason: row.reason, rulebook,
      changes: earlier ? rulebookDifference(parseJson<Rulebook>(earlier.rulebook), rulebook) : [], job: jobs.get(row.revision) ?? null,
    };
  });
}

/** Rules that are asked for, laid over those in force: what is left out stays as it is. */
export function proposedRules(present: Rulebook, asked: AskedRulebook): Rulebook {
  return accepted(admitRulebook({
    ...present, ...asked, approval: { ...present.approval, ...asked.approval }, sight: { ...present.sight, ...asked.sight }, keep: { ...present.keep, ...asked.keep },
  }));
}

/** Refuses approvers that are no accounts. */
export async function refuseUnknownApprovers(context: Context, rules: Rulebook, tx?: Tx): Promise<void> {
  const { approvers } = rules.approval;
  const known = new Set((await context.models.Person.findAll({ where: { account: approvers }, transaction: tx ?? null })).map(({ account }) => account));
  const unknown = approvers.find((account) => !known.has(account));
  if (unknown !== undefined) throw new Refused(refuse('invalid', 'account-unknown', `There is no account ${unknown} to approve.`, { rule: 'approval.approvers', account: unknown }));
}

/**
 * Sets rules, with a reason: one transaction with what it does to runs and numbers, and the thinning it calls for queued behind it. Acts under way
 * are finished by the old rules first.
 */
export async function changeRulebook(context: Context, caller: Caller, libraryId: string, asked: AskedRulebook & { reason: string }, ifMatch: string | undefined): Promise<{ view: contract.RulebookView; tag: string }> {
  const { reason, ...choices } = asked;
  await transact(context.db, async (tx) => {
    const { library, actor } = await accessLibrary(context, caller, libraryId, { tx });
    if (!may(actor.roles, 'changeRules')) throw new Refused(refuse('forbidden', 'role-missing', 'Rules are set by controllers of the library.', { needs: 'controllers' }));
    const present = await context.models.RulebookRevision.findOne({ where: { libraryId, revision: library.rulebookRevision }, transaction: tx, rejectOnEmpty: true });
    const by = (await namesOf(context, [present.personId], tx)).get(present.personId)?.name ?? '';
    refuseStale(ifMatch, tagOf(library.rulebookRevision), { revision: library.rulebookRevision, by, at: present.at.toISOString(), reason: present.reason, rulebook: parseJson<Rulebook>(present.rulebook) });
    const before = parseJson<Rulebook>(present.rulebook);
    const rules = proposedRules(before, choices);
    await refuseUnknownApprovers(context, rules, tx);
    const refused = refuseReason(reason, 'Say in a sentence why the rules change; the sentence stays with the revision.');
    if (refused) throw new Refused(refused);
    const changes = rulebookDifference(before, rules);
    if (changes.length === 0) throw new Refused(refuse('invalid', 'nothing-changed', 'These are the rules in force already; there is nothing to apply.'));
    const now = context.clock();
    await takeUp(context, libraryId, before, rules, { personId: caller.id, at: now }, tx);
    const revision = library.rulebookRevision + 1;
    await context.models.RulebookRevision.create({ libraryId, revision, rulebook: rules, personId: caller.id, at: now, reason: reason.trim() }, { transaction: tx });
    await library.update({ rulebookRevision: revision }, { transaction: tx });
    if (limitsAnything(limitsAt(rules, now))) await queueThinning(context, libraryId, revision, now, tx);
    await appendLedger(context, { at: now, personId: caller.id, libraryId, documentId: null, act: 'changeRules', facts: { revision, reason: reason.trim(), changes } }, tx);
  });
  context.wake();
  context.happenings.tell({ kind: 'library', libraryId });
  return readRulebook(context, caller, libraryId);
}

/** Queues a thinning of a library by the rules that are in force when it reaches each document. */
export async function queueThinning(context: Context, libraryId: string, revision: number, now: Date, tx?: Tx): Promise<void> {
  await context.models.Job.create({ id: newId(), libraryId, kind: 'thinning', revision, state: 'queued', createdAt: now }, { transaction: tx ?? null });
}

/** Documents taken up in one load. */
const batch = 100;

/** Takes every document concerned through a change of rules: runs ended, eras opened. */
async function takeUp(context: Context, libraryId: string, before: Rulebook, rules: Rulebook, who: { personId: string; at: Date }, tx: Tx): Promise<void> {
  const leavesNone = before.numbering === 'none' && rules.numbering !== 'none';
  const endsRuns = before.approval.on && !rules.approval.on;
  if (!leavesNone && !endsRuns) return;
  const concerned = await rows<{ id: string }>(context.db, leavesNone
    ? 'SELECT document_id AS id FROM heads WHERE library_id = :libraryId ORDER BY document_id FOR UPDATE'
    : 'SELECT h.document_id AS id FROM heads h JOIN approval_runs r ON r.open_document_id = h.document_id WHERE h.library_id = :libraryId ORDER BY h.document_id FOR UPDATE', { libraryId }, tx);
  for (let at = 0; at < concerned.length; at += batch) {
    const documents = await loadDocuments(context, concerned.slice(at, at + batch).map(({ id }) => id), tx);
    for (const document of documents.values()) {
      const decision = takeUpRules(document, rules, who.personId, who.at);
      if (decision) await applyDecision(context, document, decision, who, tx);
    }
  }
}

/** How often a library publishes, as far as the caller sees its publications. */
export async function readPace(context: Context, caller: Caller, libraryId: string): Promise<contract.PaceView> {
  const { actor } = await accessLibrary(context, caller, libraryId, { administrators: true });
  if (!may(actor.roles, 'checkIn') && !actor.roles.has('auditor') && !actor.roles.has('approver')) {
    throw new Refused(refuse('forbidden', 'role-missing', 'The pace of a library is for those who work in it, not for readers.', { needs: 'authors' }));
  }
  const now = context.clock();
  const found = await rows<{ documentId: string; at: Date | null }>(context.db,
    `SELECT h.document_id AS documentId, v.in_force_from AS at FROM heads h
     LEFT JOIN versions v ON v.document_id = h.document_id AND v.state IN ('published', 'withdrawn') AND v.in_force_from > :since WHERE h.library_id = :libraryId`,
    { libraryId, since: new Date(now.getTime() - 366 * 86_400_000) });
  const moments = new Map<string, number[]>();
  for (const { documentId, at } of found) moments.set(documentId, [...moments.get(documentId) ?? [], ...(at ? [at.getTime()] : [])]);
  const pace = paceOf([...moments.values()], now);
  return { ...pace, ...presetsFor(pace) };
}

