import type * as contract from '@polychron/contract';
import {
  type AskedRulebook,
  type Rehearsal,
  rulebookDifference,
  type RuleChange,
  type SightOf,
} from '@polychron/core';
import { accessLibrary, requireRole } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { readNumberCursor } from '../store/cursors.ts';
import { loadRevision } from '../store/rules.ts';
import type { RunningRehearsal } from '../workers/rehearsals.ts';
import { proposedRules } from './proposedRules.ts';

/** A rehearsal with what its answer needs to be told. */
export interface AskedRehearsal {
  rehearsal: RunningRehearsal;
  answer: (result: Rehearsal) => contract.Consequences;
}
const answers = new WeakMap<RunningRehearsal, AskedRehearsal['answer']>();

/** Begins to compute what proposed rules would do to a library; changes nothing. */
export async function rehearseRules(
  asker: Asker,
  libraryId: string,
  asked: AskedRulebook,
  query: contract.ConsequencesQuery,
): Promise<AskedRehearsal> {
  const { context, caller } = asker;
  const { library, actor } = await accessLibrary(asker, libraryId);
  requireRole(actor, 'changeRules', 'What other rules would do');
  const revision = library.rulebookRevision;
  const { rulebook: before } = await loadRevision(context, libraryId, revision);
  const after = await proposedRules(context, before, asked);
  const offset = readNumberCursor(query.cursor) ?? 0;
  const documents = query.documents?.split(',') ?? null;
  const task = {
    databaseUrl: context.databaseUrl,
    libraryId,
    before,
    after,
    now: context.clock().getTime(),
    wanted: { offset, limit: query.limit, documents, sightOf: sightAsked(query.list) },
  };
  const rehearsal = context.rehearsals.start(task, caller.id);
  const about: About = {
    revision,
    changes: rulebookDifference(before, after),
    list: query.list,
    end: offset + query.limit,
  };
  const answer = (result: Rehearsal): contract.Consequences => toAnswer(result, about);
  answers.set(rehearsal, answer);
  return { rehearsal, answer };
}

/** Whose gains or losses a list is of; null for another list. */
function sightAsked(list: string | undefined): SightOf | null {
  const [change, account] = list?.split(/:(.*)/s) ?? [];
  if ((change !== 'gains' && change !== 'losses') || !account) return null;
  return { change, account };
}

interface About {
  revision: number;
  changes: RuleChange[];
  list: string | undefined;
  end: number;
}

function toAnswer(result: Rehearsal, about: About): contract.Consequences {
  const { custody, approvals, numbers, ...rest } = result;
  return {
    revision: about.revision,
    changes: about.changes,
    ...rest,
    custody: custody.items,
    approvals: approvals.items.map((item) => ({ ...item, waitingFor: [...item.waitingFor] })),
    numbers: numbers.items,
    totals: { custody: custody.total, approvals: approvals.total, numbers: numbers.total },
    next: lengthOf(result, about.list) > about.end ? String(about.end) : null,
  };
}

/** How many items the list that was asked for has in all. */
function lengthOf(
  { thinned, sight, custody, approvals, numbers }: Rehearsal,
  list: string | undefined,
): number {
  const asked = sightAsked(list);
  if (asked) return sight[asked.change].find(({ account }) => account === asked.account)?.versions ?? 0;
  const totals: Record<string, number> = {
    thinned: thinned.versions,
    custody: custody.total,
    approvals: approvals.total,
    numbers: numbers.total,
  };
  return totals[list ?? ''] ?? 0;
}

/** A rehearsal as a job. */
export function rehearsalJob(rehearsal: RunningRehearsal): contract.Job {
  const answer = answers.get(rehearsal);
  const { id, state, done, total, libraryId, result, problem } = rehearsal;
  return {
    id,
    kind: 'consequences',
    state,
    done,
    total,
    library: libraryId,
    thinned: null,
    result: result && answer ? answer(result) : null,
    problem,
  };
}
