import type * as contract from '@polychron/contract';
import {
  type ContentFacts,
  seesVersion,
  labelIn,
  refuse,
  refuseNotHolding,
  type Version,
} from '@polychron/core';
import { accessDocument } from '../access/admission.ts';
import type { Access, Asker } from '../access/caller.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { type Page, partOf, readNumberCursor } from '../store/cursors.ts';
import { custodyPeriods, type CustodyPeriod, findSave, lastHeldIn, savesOf } from '../store/custody.ts';
import { namesOf, nobody } from '../store/people.ts';
import { findVersions } from '../store/versions.ts';
import { custodyView, saveView } from './custodyView.ts';
import { sideOf } from './reading.ts';
import { instant, seenLabel } from './versionView.ts';

/** Who holds a document. */
export async function readCustody(asker: Asker, documentId: string): Promise<contract.Custody> {
  return custodyAnswer(asker.context, await accessDocument(asker, documentId));
}

/** Who holds a document that somebody has access to. @throws Refused `not-checked-out` */
export async function custodyAnswer(context: Context, access: Access): Promise<contract.Custody> {
  const { custody, number } = access.document;
  const people = await namesOf(context, [custody?.holderId ?? null]);
  const view = custodyView(access, (id) => people.get(id) ?? nobody, context.clock());
  if (view) return view;
  throw new Refused(refuse('notFound', 'not-checked-out', `${number} is not checked out.`));
}

/** Lets only the holder through. @throws Refused `not-checked-out`, `held` */
export async function requireHolder(asker: Asker, documentId: string): Promise<Access> {
  const access = await accessDocument(asker, documentId);
  const refusal = refuseNotHolding(access.document, access.actor);
  if (refusal) throw new Refused(refusal);
  return access;
}

/** The saves of the working copy, oldest first; only for the holder. */
export async function listSaves(asker: Asker, documentId: string): Promise<contract.Save[]> {
  await requireHolder(asker, documentId);
  return (await savesOf(asker.context, documentId)).map(saveView);
}

/** One save of the working copy; only for the holder. @throws Refused `save-not-found` */
export async function readSave(asker: Asker, documentId: string, position: number): Promise<ContentFacts> {
  await requireHolder(asker, documentId);
  const save = await findSave(asker.context, documentId, position);
  if (save) return save;
  const reason = `The working copy has no step ${position}.`;
  throw new Refused(refuse('notFound', 'save-not-found', reason, { position }));
}

/** What the holder works on. */
export interface WorkingCopy {
  /** The last save, or the base while nothing was saved. */
  content: ContentFacts;
  base: Version;
  number: string;
  label: string;
}

/** What the holder works on; for nobody else. @throws Refused `not-holder` */
export async function readWorkingCopy(asker: Asker, documentId: string): Promise<WorkingCopy> {
  const { document, actor } = await accessDocument(asker, documentId);
  const { custody, number } = document;
  if (custody?.holderId !== actor.id || actor.lookingAs !== undefined) {
    const reason = `The working copy of ${number} is for its holder only.`;
    throw new Refused(refuse('forbidden', 'not-holder', reason));
  }
  const { base, workingCopy } = custody;
  return { content: workingCopy ?? base.content, base, number, label: labelIn(document, base) };
}

/** What the working copy changed against its base so far. */
export async function compareSoFar(asker: Asker, documentId: string): Promise<contract.Comparison> {
  const { context } = asker;
  const { content, base, label } = await readWorkingCopy(asker, documentId);
  const older = await sideOf(context, base);
  const newer = await sideOf(context, { content, fields: base.fields });
  const comparison = await context.readers.compare(older, newer);
  return { from: label, to: 'working copy', ...comparison } as contract.Comparison;
}

/** Who held the document, newest first; whoever does not see a base is told no more than who and when. */
export async function custodyHistory(
  asker: Asker,
  documentId: string,
  page: Page,
): Promise<contract.CustodyHistory> {
  const { context } = asker;
  const access = await accessDocument(asker, documentId);
  const part = { before: readNumberCursor(page.cursor), count: page.limit + 1 };
  const { found, total } = await custodyPeriods(context, documentId, part);
  const { shown, next } = partOf(found, page.limit, ({ id }) => String(id));
  const held = await lastHeldIn(
    context,
    shown.map(({ id }) => id),
  );
  const versions = await findVersions(
    context,
    shown.flatMap(({ id, baseId, versionId }) => [baseId, versionId, held.get(id) ?? null]),
  );
  const people = await namesOf(
    context,
    shown.flatMap(({ holderId, endedBy }) => [holderId, endedBy]),
  );
  const facts = {
    person: (id: string): contract.Person => people.get(id) ?? nobody,
    label: (id: string | null): string | null => seenLabel(access, versions.get(id ?? '')),
    whole: (period: CustodyPeriod): boolean =>
      isKnown(access, period, (id) => versions.get(id ?? ''), held.get(period.id)),
  };
  return { items: shown.map((period) => periodView(period, facts)), next, total };
}

/**
 * Whether all of a period may be known: by the base it has now while it lasts, as of the check-out itself,
 * else by what it began and ended with, and what was held last: a check-out may be kept over a draft.
 */
function isKnown(
  { document, actor }: Access,
  { endedAt, baseId, versionId }: CustodyPeriod,
  versionOf: (id: string | null) => Version | undefined,
  heldId: string | undefined,
): boolean {
  const { custody, latest } = document;
  const sees = (version: Version | undefined): boolean =>
    version !== undefined && seesVersion(document, actor, version);
  if (!sees(versionOf(baseId))) return false;
  if (endedAt === null && custody) {
    return sees(custody.base) && (custody.holderId === actor.id || sees(latest));
  }
  return [versionId, heldId ?? null].every((id) => id === null || sees(versionOf(id)));
}

function periodView(
  period: CustodyPeriod,
  facts: {
    person: (id: string) => contract.Person;
    label: (id: string | null) => string | null;
    whole: (period: CustodyPeriod) => boolean;
  },
): contract.CustodyPeriod {
  const { person, label, whole } = facts;
  const known = {
    holder: person(period.holderId),
    since: period.since.toISOString(),
    endedAt: instant(period.endedAt),
  };
  if (!whole(period)) {
    const hidden = { base: null, version: null, until: null, reason: null };
    return { ...known, ...hidden, how: null, endedBy: null, endReason: null };
  }
  const { untilAt, reason, how, endedBy, endReason } = period;
  return {
    ...known,
    base: label(period.baseId),
    version: label(period.versionId),
    until: instant(untilAt),
    reason,
    how,
    endedBy: endedBy === null ? null : person(endedBy),
    endReason,
  };
}
