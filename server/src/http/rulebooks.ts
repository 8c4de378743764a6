import { routes } from '@polychron/contract';
import type { Context } from '../context.ts';
import { resultOf } from '../jobs/rehearsals.ts';
import { cancelJob, readJob, rehearsalJob, rehearseRules } from '../services/consequences.ts';
import { readShelf } from '../services/keeping.ts';
import { changeRulebook, readPace, readRulebook, readRulebookHistory } from '../services/rulebooks.ts';
import type { Door } from './bind.ts';

/** The Rulebook of a library, its consequences, and the recovery shelf. */
export function rulebookRoutes(door: Door, context: Context): void {
  door.on(routes.readRulebook, async ({ caller, params, res }) => {
    const { view, tag } = await readRulebook(context, caller, params.id);
    res.set('ETag', tag);
    return view;
  });
  door.on(routes.changeRulebook, async ({ caller, params, body, req, res }) => {
    const { view, tag } = await changeRulebook(context, caller, params.id, body, req.get('if-match'));
    res.set('ETag', tag);
    return view;
  });
  door.on(routes.rulebookHistory, async ({ caller, params, query }) => readRulebookHistory(context, caller, params.id, query));
  door.on(routes.consequences, async ({ caller, params, body, query, req, res }) => {
    const { rehearsal, answer } = await rehearseRules(context, caller, params.id, body, query);
    const patience = patienceOf(req.get('prefer'));
    // Whoever goes away needs no answer, unless they were promised one to fetch.
    res.on('close', () => { if (!res.writableEnded) rehearsal.cancel(); });
    if (patience !== null && !await settlesWithin(rehearsal.over, patience)) {
      res.status(202).set({ Location: `/api/v1/jobs/${rehearsal.id}`, 'Preference-Applied': 'respond-async' }).json(rehearsalJob(rehearsal));
      return undefined;
    }
    await rehearsal.over;
    if (res.closed) return undefined;
    return answer(resultOf(rehearsal));
  });
  door.on(routes.pace, async ({ caller, params }) => readPace(context, caller, params.id));
  door.on(routes.shelf, async ({ caller, params, query }) => readShelf(context, caller, params.id, query));
  door.on(routes.readJob, async ({ caller, params }) => readJob(context, caller, params.id));
  door.on(routes.cancelJob, async ({ caller, params }) => cancelJob(context, caller, params.id));
}

/** Longest a caller may ask us to wait before they are sent to the job, in seconds. */
const mostPatience = 60;

/** Seconds to wait before answering with a job (RFC 7240, 4.1 and 4.3); null where the answer itself is wanted, however long it takes. */
export function patienceOf(prefer: string | undefined): number | null {
  const preferences = (prefer ?? '').split(/[,;]/).map((part) => part.trim().toLowerCase());
  if (!preferences.includes('respond-async')) return null;
  const wait = preferences.map((part) => /^wait\s*=\s*"?(\d{1,6})"?$/.exec(part)?.[1]).find((seconds) => seconds !== undefined);
  return Math.min(Number(wait ?? 0), mostPatience);
}

async function settlesWithin(work: Promise<void>, seconds: number): Promise<boolean> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<false>((resolve) => { timer = setTimeout(() => resolve(false), seconds * 1000); });
  const settled = await Promise.race([work.then(() => true as const), late]);
  clearTimeout(timer);
  return settled;
}
