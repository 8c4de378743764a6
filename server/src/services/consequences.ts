import type * as contract from '@polychron/contract';
import { type AskedRulebook, may, refuse, type Rehearsal, type Rulebook, rulebookDifference, type RuleChange } from '@polychron/core';
import type { Context } from '../context.ts';
import { type RunningRehearsal } from '../jobs/rehearsals.ts';
import { Refused } from '../refused.ts';
import { parseJson } from '../store/models.ts';
import { accessLibrary, type Caller } from './access.ts';
import { proposedRules, refuseUnknownApprovers } from './rulebooks.ts';

/** A rehearsal with what its answer needs to be told. */
export interface AskedRehearsal { rehearsal: RunningRehearsal; answer: (result: Rehearsal) => contract.Consequences }
const answers = new WeakMap<RunningRehearsal, AskedRehearsal['answer']>();

/** Begins to compute what proposed rules would do to a library; changes nothing. */
export async function rehearseRules(context: Context, caller: Caller, libraryId: string, asked: AskedRulebook, query: contract.ConsequencesQuery): Promise<AskedRehearsal> {
  const { library, actor } = await accessLibrary(context, caller, libraryId);
  if (!may(actor.roles, 'changeRules')) throw new Refused(refuse('forbidden', 'role-missing', 'What other rules would do is for controllers of the library.', { needs: 'controllers' }));
  const row = await context.models.RulebookRevision.findOne({ where: { libraryId, revision: library.rulebookRevision }, rejectOnEmpty: true });
  const before = parseJson<Rulebook>(row.rulebook);
  const after = proposedRules(before, asked);
  await refuseUnknownApprovers(context, after);
  const offset = Number(query.cursor ?? 0);
  if (!Number.isInteger(offset) || offset < 0) throw new Refused(refuse('invalid', 'bad-cursor', 'The cursor is not one of this list. Start again without it.'));
  const sight = /^(gains|losses):(.+)$/.exec(query.list ?? '');
  const rehearsal = context.rehearsals.start({
    databaseUrl: context.databaseUrl, libraryId, before, after, now: context.clock().getTime(),
    wanted: { offset, limit: query.limit, documents: query.documents?.split(',') ?? null, sightOf: sight ? { change: sight[1] as 'gains' | 'losses', account: sight[2] as string } : null },
  }, caller.id);
  const changes = rulebookDifference(before, after);
  const answer = (result: Rehearsal): contract.Consequences => toAnswer(result, { revision: library.rulebookRevision, changes, list: query.list, end: offset + query.limit });
  answers.set(rehearsal, answer);
  return { rehearsal, answer };
}

function toAnswer(result: Rehearsal, about: { revision: number; changes: RuleChange[]; list: string | undefined; end: number }): contract.Consequences {
  const { custody, approvals, numbers, ...rest } = result;
  const sightOf = /^(gains|losses):(.+)$/.exec(about.list ?? '');
  const shifts = sightOf ? result.sight[sightOf[1] as 'gains' | 'losses'] : [];
  const totals: Record<string, number> = { thinned: result.thinned.versions, custody: custody.total, approvals: approvals.total, numbers: numbers.total };
  const length = sightOf ? shifts.find(({ account }) => account === sightOf[2])?.versions ?? 0 : totals[about.list ?? ''] ?? 0;
  return {
    revision: about.revision, changes: about.changes, ...rest,
    custody: custody.items, approvals: approvals.items.map((item) => ({ ...item, waitingFor: [...item.waitingFor] })), numbers: numbers.items,
    totals: { custody: custody.total, approvals: approvals.total, numbers: numbers.total },
    next: length > about.end ? String(about.end) : null,
  };
}

/** A rehearsal as a job. */
export function rehearsalJob(rehearsal: RunningRehearsal): contract.Job {
  const answer = answers.get(rehearsal);
  return {
    id: rehearsal.id, kind: 'consequences', state: rehearsal.state, done: rehearsal.done, total: rehearsal.total, library: rehearsal.libraryId, thinned: null,
    result: rehearsal.result && answer ? answer(rehearsal.result) : null, problem: rehearsal.problem,
  };
}

/** Long work by its id: a rehearsal of the caller's own, or a thinning of a library they are a member of. */
export async function readJob(context: Context, caller: Caller, id: string): Promise<contract.Job> {
  const rehearsal = context.rehearsals.find(id, caller.id);
  if (rehearsal) return rehearsalJob(rehearsal);
  const job = await context.models.Job.findByPk(id);
  const access = job && await accessLibrary(context, caller, job.libraryId).catch((error: unknown) => { if (error instanceof Refused) return null; throw error; });
  if (!job || !access || !may(access.actor.roles, 'checkIn')) throw new Refused(refuse('notFound', 'job-not-found', 'There is no such work, or it was long ago.'));
  return {
    id, kind: job.kind, state: job.state, done: job.done, total: job.total, library: job.libraryId, thinned: { versions: job.thinnedVersions, bytes: Number(job.thinnedBytes) },
    result: null, problem: job.problem === null ? null : { code: 'unexpected', detail: job.problem },
  };
}

/** Cancels a rehearsal of the caller's own. A thinning cannot be cancelled: it carries out rules in force. */
export async function cancelJob(context: Context, caller: Caller, id: string): Promise<void> {
  const rehearsal = context.rehearsals.find(id, caller.id);
  if (rehearsal) { rehearsal.cancel(); await rehearsal.over; return; }
  await readJob(context, caller, id);
  throw new Refused(refuse('conflict', 'not-cancellable', 'A thinning carries out rules that are in force. Change the rules back to keep what it has not reached; what it thinned can be recovered from the shelf.'));
}
