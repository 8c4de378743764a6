import { routes } from '@polychron/contract';
import { cancelJob } from '../acts/cancelJob.ts';
import { performChangeRulebook } from '../acts/changeRulebook.ts';
import { rehearsalJob, rehearseRules } from '../reads/consequences.ts';
import { readJob } from '../reads/jobs.ts';
import { readPace, readRulebook, readRulebookHistory } from '../reads/rulebook.ts';
import { readShelf } from '../reads/shelf.ts';
import { resultOf } from '../workers/rehearsals.ts';
import type { ContractRouter } from './router.ts';

/** The Rulebook of a library, its consequences, and the recovery shelf. */
export function rulebookRoutes(router: ContractRouter): void {
  router.on(routes.readRulebook, async ({ asker, params, res }) => {
    const { view, tag } = await readRulebook(asker, params.id);
    res.set('ETag', tag);
    return view;
  });
  router.on(routes.changeRulebook, async ({ asker, params, body, res }) => {
    const { view, tag } = await performChangeRulebook(asker, params.id, body);
    res.set('ETag', tag);
    return view;
  });
  router.on(routes.rulebookHistory, ({ asker, params, query }) =>
    readRulebookHistory(asker, params.id, query),
  );
  router.on(routes.consequences, async ({ asker, params, body, query, req, res }) => {
    const { rehearsal, answer } = await rehearseRules(asker, params.id, body, query);
    const patience = patienceOf(req.get('prefer'));
    // Whoever goes away needs no answer, unless they were promised one to fetch.
    res.on('close', () => {
      if (!res.writableEnded) rehearsal.cancel();
    });
    if (patience !== null && !(await settlesWithin(rehearsal.over, patience))) {
      const headers = { Location: `/api/v1/jobs/${rehearsal.id}`, 'Preference-Applied': 'respond-async' };
      res.status(202).set(headers).json(rehearsalJob(rehearsal));
      return undefined;
    }
    await rehearsal.over;
    if (res.closed) return undefined;
    return answer(resultOf(rehearsal));
  });
  router.on(routes.pace, ({ asker, params }) => readPace(asker, params.id));
  router.on(routes.shelf, ({ asker, params, query }) => readShelf(asker, params.id, query));
  router.on(routes.readJob, ({ asker, params }) => readJob(asker, params.id));
  router.on(routes.cancelJob, ({ asker, params }) => cancelJob(asker, params.id));
}

/** Longest a caller may ask us to wait before they are sent to the job, in seconds. */
const longestPatience = 60;

/**
 * Seconds to wait before answering with a job (RFC 7240, 4.1 and 4.3); null where the answer itself is
 * wanted, however long it takes.
 */
export function patienceOf(prefer: string | undefined): number | null {
  const preferences = (prefer ?? '').split(/[,;]/).map((part) => part.trim().toLowerCase());
  if (!preferences.includes('respond-async')) return null;
  const wait = preferences
    .map((part) => /^wait\s*=\s*"?(\d{1,6})"?$/.exec(part)?.[1])
    .find((seconds) => seconds !== undefined);
  return Math.min(Number(wait ?? 0), longestPatience);
}

async function settlesWithin(work: Promise<void>, seconds: number): Promise<boolean> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<false>((resolve) => {
    timer = setTimeout(() => resolve(false), seconds * 1000);
  });
  const settled = await Promise.race([work.then(() => true as const), late]);
  clearTimeout(timer);
  return settled;
}
