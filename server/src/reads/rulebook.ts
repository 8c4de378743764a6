import type * as contract from '@polychron/contract';
import { paceOf, presetsFor, rulebookDifference } from '@polychron/core';
import { accessLibrary, requireRole } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { entityTag } from '../access/preconditions.ts';
import type { Context } from '../context.ts';
import { type Page, readNumberCursor } from '../store/cursors.ts';
import { jobsOfRevisions } from '../store/jobs.ts';
import { publicationsSince } from '../store/libraries.ts';
import { namesOf } from '../store/people.ts';
import { loadRevisions, loadRules, type Revision, revisionAsOf } from '../store/rules.ts';

/** The entity tag of a revision. */
export const revisionTag = (revision: number): string => entityTag(revision, `${revision}`);

/** The rules in force, now or at the moment looked at, with who set them and why, and their entity tag. */
export async function readRulebook(
  asker: Asker,
  libraryId: string,
): Promise<{ view: contract.RulebookView; tag: string }> {
  const { library } = await accessLibrary(asker, libraryId, { administrators: true });
  const { asOf, context } = asker;
  const newest = asOf ? await revisionAsOf(context, libraryId, asOf) : library.rulebookRevision;
  const found = await loadRevisions(context, libraryId, { newest, count: 1 });
  const [view] = await revisionViews(context, libraryId, found);
  if (!view) throw new Error(`library ${libraryId} has no rulebook`);
  return { view, tag: revisionTag(newest) };
}

/** Revisions newest first; a cursor is the number of the last one of the page before. */
export async function readRulebookHistory(
  asker: Asker,
  libraryId: string,
  page: Page,
): Promise<contract.RulebookHistory> {
  const { library } = await accessLibrary(asker, libraryId, { administrators: true });
  const total = library.rulebookRevision;
  const last = readNumberCursor(page.cursor);
  const newest = last === null ? total : Math.min(last - 1, total);
  const found = await loadRevisions(asker.context, libraryId, { newest, count: page.limit });
  const items = (await revisionViews(asker.context, libraryId, found)).slice(0, page.limit);
  const lowest = items.at(-1)?.revision ?? 1;
  return { items, next: lowest > 1 ? String(lowest) : null, total };
}

/**
 * Revisions as the API tells them, each with what it changed against the one before, where that was loaded,
 * too.
 */
async function revisionViews(
  context: Context,
  libraryId: string,
  revisions: readonly Revision[],
): Promise<contract.RulebookView[]> {
  const people = await namesOf(
    context,
    revisions.map(({ personId }) => personId),
  );
  const numbers = revisions.map(({ revision }) => revision);
  const jobs = await jobsOfRevisions(context, libraryId, numbers);
  return revisions.map(({ revision, rulebook, personId, at, reason }, index) => {
    const before = revisions[index + 1];
    return {
      revision,
      at: at.toISOString(),
      by: people.get(personId)?.name ?? '',
      reason,
      rulebook,
      changes: before ? rulebookDifference(before.rulebook, rulebook) : [],
      job: jobs.get(revision) ?? null,
    };
  });
}

/** A year and a day, in milliseconds: what the pace of a year is counted in. */
const paceSpan = 366 * 86_400_000;

/** How often a library publishes, and limits made of that. */
export async function readPace(asker: Asker, libraryId: string): Promise<contract.PaceView> {
  const { context } = asker;
  const { actor } = await accessLibrary(asker, libraryId, { administrators: true });
  requireRole(actor, 'seePace', 'The pace of a library');
  const now = context.clock();
  const since = new Date(now.getTime() - paceSpan);
  const found = await publicationsSince(
    context,
    { libraryId, since },
    actor,
    await loadRules(context, libraryId),
  );
  const pace = paceOf(found, now);
  return { ...pace, presets: presetsFor(pace) };
}
