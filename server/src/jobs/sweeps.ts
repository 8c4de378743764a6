import { limitsAnything, limitsAt } from '@polychron/core';
import { runHandOver } from '../acts/handOverDocuments.ts';
import { closeLeftOpen } from '../acts/openInProgram.ts';
import { composeMail } from '../acts/composeMail.ts';
import { sendMail } from '../acts/sendMail.ts';
import { tellOfOverdue } from '../acts/tellOfOverdue.ts';
import { tellOfReviews } from '../acts/tellOfReviews.ts';
import { catchUpDocument } from '../acts/thinDocument.ts';
import { forgetArrivals, purgeShelf } from '../content/contents.ts';
import type { Context } from '../context.ts';
import { noteTime } from '../store/clock.ts';
import { documentsDue, documentsIn } from '../store/documents.ts';
import {
  claimJob,
  type HandOverJob,
  hasOpenJob,
  queueThinning,
  type ThinningJob,
  updateJob,
} from '../store/jobs.ts';
import { allLibraries, findLibrary } from '../store/libraries.ts';
import type { JobRow } from '../store/models.ts';
import { deleteLocksOver, deleteTemporaries } from '../store/ownPlaces.ts';
import { loadRules } from '../store/rules.ts';
import { deleteSessionsOver } from '../store/sessions.ts';

/** A run that has said nothing for this long was cut short, and is taken up again. In milliseconds. */
const silence = 60_000;
/** How long a file that a program keeps while it works is kept after it was last written, in milliseconds. */
const temporaryFor = 24 * 3_600_000;
/** Documents between two signs of life. */
const stride = 20;

/** Runs what is queued until nothing is; takes up runs that were cut short. */
export async function runJobs(context: Context): Promise<void> {
  while (await runJob(context));
}

/** What is said of a run that failed: what goes on by itself, and what does not. */
const brokenOff: Record<JobRow['kind'], string> = {
  thinning: 'It was broken off by an unexpected error; the next sweep goes on.',
  handOver: 'It was broken off by an unexpected error. Hand over once more; it goes on where it stopped.',
};

/** Runs the oldest job that is queued or was cut short; false where there is none. */
async function runJob(context: Context): Promise<boolean> {
  const now = context.clock();
  const job = await claimJob(context, now, new Date(now.getTime() - silence));
  if (!job) return false;
  try {
    await (job.kind === 'thinning'
      ? runThinning(context, job as ThinningJob)
      : runHandOver(context, job as HandOverJob));
  } catch (error) {
    context.log.error({ err: error, job: job.id }, 'a long act failed');
    const problem = brokenOff[job.kind];
    await updateJob(context, job.id, { state: 'failed', problem, endedAt: context.clock() });
  }
  return true;
}

/**
 * Thins a library, document by document, each in a transaction of its own and by the rules then in force.
 * When the rules change meanwhile, that change has queued a run of its own, and this one ends.
 */
async function runThinning(context: Context, job: ThinningJob): Promise<void> {
  const documents = await documentsIn(context, job.libraryId);
  const sum = { done: 0, thinnedVersions: 0, thinnedBytes: 0 };
  const report = (more: Parameters<typeof updateJob>[2] = {}): Promise<void> =>
    updateJob(context, job.id, { ...sum, total: documents.length, aliveAt: context.clock(), ...more });
  for (const id of documents) {
    if (sum.done % stride === 0) {
      await report();
      const library = await findLibrary(context, job.libraryId);
      if (library && library.rulebookRevision !== job.revision) {
        await report({ state: 'superseded', endedAt: context.clock() });
        return;
      }
    }
    const { versions, bytes } = await catchUpDocument(context, id);
    sum.done += 1;
    sum.thinnedVersions += versions;
    sum.thinnedBytes += bytes;
  }
  await report({ state: 'done', endedAt: context.clock() });
  context.events.publish({ kind: 'library', libraryId: job.libraryId });
}

/** Brings into force every version whose moment has come; returns of how many documents. */
export async function bringDueIntoForce(context: Context): Promise<number> {
  let documents = 0;
  for (const id of await documentsDue(context, context.clock())) {
    const { cameIntoForce } = await catchUpDocument(context, id);
    if (cameIntoForce) documents += 1;
  }
  return documents;
}

/** Makes messages of what people were told, and sends what is to leave. */
export async function mailNotices(context: Context): Promise<void> {
  while ((await composeMail(context)) > 0);
  while ((await sendMail(context)) > 0);
}

/**
 * Queues a thinning for every library with limits, since time alone makes versions old enough, and clears
 * the shelf of what is over, the sign-ins and uploads that are over, and what arrived for no act. Where the
 * clock has leapt ahead nothing of it is done before the time is confirmed.
 */
export async function sweep(context: Context): Promise<void> {
  const now = context.clock();
  if ((await noteTime(context, now)) !== null) return;
  for (const { id, rulebookRevision: revision } of await allLibraries(context)) {
    if (!limitsAnything(limitsAt(await loadRules(context, id), now))) continue;
    if (!(await hasOpenJob(context, id))) await queueThinning(context, { id, revision }, now);
  }
  await runJobs(context);
  while ((await purgeShelf(context, now)) > 0);
  while ((await forgetArrivals(context, now)) > 0);
  while ((await tellOfReviews(context)) > 0);
  await deleteSessionsOver(context, now);
  await deleteTemporaries(context, new Date(now.getTime() - temporaryFor));
  await deleteLocksOver(context, now);
  await context.uploads.clear();
}

/**
 * How often versions that are due and work that was cut short are looked for, and how often the libraries
 * are swept; in milliseconds.
 */
const dueEvery = 15_000;
const sweepEvery = 3_600_000;

/** Keeps a server's libraries: runs jobs when woken, and sweeps from time to time. */
export class Sweeps {
  private timers: NodeJS.Timeout[] = [];
  private work: Promise<void> = Promise.resolve();

  constructor(private readonly context: Context) {}

  start(): void {
    const look = (): void => {
      this.queue((context) => noteTime(context, context.clock()));
      this.queue(bringDueIntoForce);
      this.queue(tellOfOverdue);
      this.queue(closeLeftOpen);
      this.queue(mailNotices);
      this.queue(runJobs);
    };
    this.timers = [setInterval(look, dueEvery), setInterval(() => this.queue(sweep), sweepEvery)];
    look();
    this.queue(sweep);
  }

  /** Runs what was queued. */
  wake(): void {
    this.queue(runJobs);
  }

  /** Ends after what is under way. */
  async stop(): Promise<void> {
    for (const timer of this.timers) clearInterval(timer);
    await this.work;
  }

  /** Where the disk is all but full a task waits for the next look. */
  private queue(task: (context: Context) => Promise<unknown>): void {
    this.work = this.work
      .then(async () => ((await this.context.room.isEnough()) ? task(this.context) : undefined))
      .then(
        () => undefined,
        (error: unknown) => this.context.log.error({ err: error }, 'a sweep failed; it is tried again'),
      );
  }
}
