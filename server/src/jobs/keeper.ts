import { Op } from 'sequelize';
import { limitsAnything, limitsAt, sightFacts } from '@polychron/core';
import { purgeShelf } from '../content/contents.ts';
import type { Context } from '../context.ts';
import { comeIntoForce } from '../services/custody.ts';
import { thinDocument } from '../services/keeping.ts';
import { tellOfOverdue } from '../services/notices.ts';
import { queueThinning } from '../services/rulebooks.ts';
import { rows, transact } from '../store/database.ts';
import { loadDocuments, loadRules, lockDocument } from '../store/documents.ts';

/** A run that has said nothing for this long was cut short, and is taken up again. In milliseconds. */
const silence = 60_000;
/** Documents between two signs of life. */
const stride = 20;

/** Runs what is queued until nothing is; takes up runs that were cut short. */
export async function runJobs(context: Context): Promise<void> {
  for (;;) {
    const job = await claimJob(context);
    if (!job) return;
    try {
      await runThinning(context, job);
    } catch (error) {
      context.log.error({ err: error, job: job.id }, 'a thinning run failed');
      await context.models.Job.update({ state: 'failed', problem: 'It was broken off by an unexpected error; the next sweep goes on.', endedAt: context.clock() }, { where: { id: job.id } });
    }
  }
}

interface Claimed { id: string; libraryId: string; revision: number }

async function claimJob(context: Context): Promise<Claimed | null> {
  const now = context.clock();
  const job = await context.models.Job.findOne({
    where: { [Op.or]: [{ state: 'queued' }, { state: 'running', aliveAt: { [Op.lt]: new Date(now.getTime() - silence) } }] }, order: ['createdAt'],
  });
  if (!job) return null;
  // Of two servers that find it, one changes the row.
  const [taken] = await context.models.Job.update({ state: 'running', aliveAt: now }, { where: { id: job.id, state: job.state, aliveAt: job.aliveAt } });
  return taken === 1 ? job : null;
}

/**
 * Thins a library, document by document, each in a transaction of its own and by the rules then in force. When the rules change meanwhile,
 * that change has queued a run of its own, and this one ends.
 */
async function runThinning(context: Context, job: Claimed): Promise<void> {
  const documents = await rows<{ id: string }>(context.db, 'SELECT document_id AS id FROM heads WHERE library_id = :libraryId ORDER BY document_id', { libraryId: job.libraryId });
  const sum = { done: 0, thinnedVersions: 0, thinnedBytes: 0 };
  const tell = (more: object): Promise<unknown> => context.models.Job.update({ ...sum, total: documents.length, aliveAt: context.clock(), ...more }, { where: { id: job.id } });
  for (const { id } of documents) {
    if (sum.done % stride === 0) {
      await tell({});
      const library = await context.models.Library.findByPk(job.libraryId);
      if (library && library.rulebookRevision !== job.revision) { await tell({ state: 'superseded', endedAt: context.clock() }); return; }
    }
    const { versions, bytes } = await thinDocument(context, id);
    sum.done += 1;
    sum.thinnedVersions += versions;
    sum.thinnedBytes += bytes;
  }
  await tell({ state: 'done', endedAt: context.clock() });
  context.happenings.tell({ kind: 'library', libraryId: job.libraryId });
}

/** Brings into force every version whose moment has come. */
export async function bringDueIntoForce(context: Context): Promise<number> {
  const due = await rows<{ id: string }>(context.db,
    `SELECT DISTINCT document_id AS id FROM versions WHERE standing = 'scheduled' AND in_force_from <= :now`, { now: context.clock() });
  let documents = 0;
  for (const { id } of due) {
    await transact(context.db, async (tx) => {
      const document = await lockDocument(context, id, tx);
      if (document && await comeIntoForce(context, document, context.clock(), tx)) documents += 1;
    });
    await thinDocument(context, id);
    const document = (await loadDocuments(context, [id])).get(id);
    if (document?.inForce) {
      context.happenings.tell({ kind: 'document', documentId: id, libraryId: document.libraryId, rules: document.rules, about: [sightFacts(document, document.inForce)], custody: false });
    }
  }
  return documents;
}

/** Queues a thinning for every library with limits, since time alone makes versions old enough, and clears the shelf of what is over. */
export async function sweep(context: Context): Promise<void> {
  const now = context.clock();
  for (const library of await context.models.Library.findAll()) {
    if (!limitsAnything(limitsAt(await loadRules(context, library.id), now))) continue;
    const open = await context.models.Job.count({ where: { libraryId: library.id, state: ['queued', 'running'] } });
    if (open === 0) await queueThinning(context, library.id, library.rulebookRevision, now);
  }
  await runJobs(context);
  while (await purgeShelf(context, now) > 0);
}

/** How often versions that are due are looked for, and how often the libraries are swept; in milliseconds. */
const dueEvery = 15_000;
const sweepEvery = 3_600_000;

/** Keeps a server's libraries: runs jobs when woken, and sweeps from time to time. */
export class Keeper {
  private timers: NodeJS.Timeout[] = [];
  private work: Promise<void> = Promise.resolve();

  constructor(private readonly context: Context) {}

  start(): void {
    this.timers = [setInterval(() => { this.queue(bringDueIntoForce); this.queue(tellOfOverdue); }, dueEvery), setInterval(() => this.queue(sweep), sweepEvery)];
    this.queue(bringDueIntoForce);
    this.queue(tellOfOverdue);
    this.queue(sweep);
  }

  /** Runs what was queued. */
  wake(): void { this.queue(runJobs); }

  /** Ends after what is under way. */
  async stop(): Promise<void> {
    for (const timer of this.timers) clearInterval(timer);
    await this.work;
  }

  private queue(task: (context: Context) => Promise<unknown>): void {
    this.work = this.work.then(() => task(this.context)).then(() => undefined, (error: unknown) => {
      this.context.log.error({ err: error }, 'keeping failed; it is tried again');
    });
  }
}
