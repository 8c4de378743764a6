import type * as contract from '@polychron/contract';
import { dayAfter, seesVersion, labelIn, may, reviewAhead, waitingFor } from '@polychron/core';
import type { Access, Asker } from '../access/caller.ts';
import type { Context } from '../context.ts';
import { documentsSentBack, documentsSubmittedBy, lastRejections } from '../store/approvals.ts';
import { documentsHeldBy } from '../store/custody.ts';
import { deskFilesOf, deskUse } from '../store/deskFiles.ts';
import { librariesOf } from '../store/members.ts';
import { documentsToRead } from '../store/named.ts';
import { namesOf, nobody } from '../store/people.ts';
import { type ReviewDue, reviewsDueFor } from '../store/reviews.ts';
import { toDecide } from './approvals.ts';
import { deskFileViews } from './deskFiles.ts';
import { documentNames, type NamedDocument } from './documentNames.ts';
import { documentViews } from './documentView.ts';
import { listNotices } from './notices.ts';

/** Things of one kind shown on a Desk at once. */
const maximumOnDesk = 200;
/** Notices shown on a Desk at once. */
const maximumNotices = 50;

/** One person's page. */
export async function readDesk(asker: Asker): Promise<contract.Desk> {
  const { context, caller } = asker;
  const [held, waiting, submitted, back, reviews, readings, { files, total: filesInAll }] = await Promise.all(
    [
      documentsHeldBy(context, caller.id, maximumOnDesk),
      toDecide(asker, maximumOnDesk),
      documentsSubmittedBy(context, caller.id, maximumOnDesk),
      documentsSentBack(context, caller.id, maximumOnDesk),
      reviewsDue(asker),
      documentsToRead(context, caller.id, maximumOnDesk),
      deskFilesOf(context, caller.id, maximumOnDesk),
    ],
  );
  const [named, notices, fileViews, { bytes }] = await Promise.all([
    documentNames(asker, [
      ...[...held.ids, ...waiting.ids, ...submitted, ...back],
      ...[...reviews, ...readings].map(({ documentId }) => documentId),
    ]),
    listNotices(asker, { limit: maximumNotices }),
    deskFileViews(asker, files),
    deskUse(context, caller.id),
  ]);
  const found = (ids: readonly string[]): NamedDocument[] => ids.flatMap((id) => named.get(id) ?? []);
  const [heldViews, decisions, outForDecision, cameBack] = await Promise.all([
    viewsOf(
      context,
      found(held.ids).map(({ access }) => access),
    ),
    decisionViews(context, found(waiting.ids)),
    submissionViews(context, found(submitted).filter(seesLatest)),
    rejections(context, found(back), caller.id),
  ]);
  const toReview = reviews.flatMap(({ documentId, reviewBy }) => {
    const one = named.get(documentId);
    return one ? [{ document: one.name, reviewBy }] : [];
  });
  const toRead = readings.flatMap(({ documentId, since }) => {
    const one = named.get(documentId);
    const inForce = one?.access.document.inForce;
    if (!one || !inForce) return [];
    const version = labelIn(one.access.document, inForce);
    return [{ document: one.name, version, since: since.toISOString() }];
  });
  return {
    held: heldViews,
    decisions,
    outForDecision,
    cameBack,
    reviews: toReview,
    toRead,
    files: fileViews,
    notices: notices.items,
    unread: notices.unread,
    bytes,
    allowanceBytes: context.deskBytes,
    totals: {
      held: held.total,
      decisions: waiting.total,
      outForDecision: outForDecision.length,
      cameBack: cameBack.length,
      reviews: toReview.length,
      toRead: toRead.length,
      files: filesInAll,
      notices: notices.total,
    },
  };
}

/** What the caller owns and is soon to be reviewed, and what is past its date where they look after all. */
async function reviewsDue({ context, caller }: Asker): Promise<ReviewDue[]> {
  const now = context.clock();
  const held = [...(await librariesOf(context, caller.id))];
  const libraryIds = held.flatMap(([id, roles]) => (may(roles, 'reviewOthers') ? [id] : []));
  return reviewsDueFor(
    context,
    { personId: caller.id, libraryIds },
    { soon: dayAfter(now, reviewAhead), today: dayAfter(now, 0), count: maximumOnDesk },
  );
}

/** How many notices are new to the caller, how many decisions wait for them, and how much is to be read. */
export async function readWaiting(asker: Asker): Promise<contract.Waiting> {
  const [{ unread }, { total }, toRead] = await Promise.all([
    listNotices(asker, { limit: 1 }),
    toDecide(asker, 1),
    documentsToRead(asker.context, asker.caller.id, maximumOnDesk),
  ]);
  const named = await documentNames(
    asker,
    toRead.map(({ documentId }) => documentId),
  );
  return { unread, toDecide: total, toRead: named.size };
}

/** Documents of several libraries, in the order given. */
async function viewsOf(context: Context, accesses: readonly Access[]): Promise<contract.Document[]> {
  const views = new Map<string, contract.Document>();
  for (const libraryId of new Set(accesses.map(({ document }) => document.libraryId))) {
    const here = accesses.filter(({ document }) => document.libraryId === libraryId);
    for (const view of await documentViews(context, here)) views.set(view.id, view);
  }
  return accesses.flatMap(({ document }) => views.get(document.id) ?? []);
}

const seesLatest = ({ access: { document, actor } }: NamedDocument): boolean =>
  seesVersion(document, actor, document.latest);

async function decisionViews(
  context: Context,
  waiting: readonly NamedDocument[],
): Promise<contract.Desk['decisions']> {
  const runs = waiting.flatMap(({ name, access: { document } }) =>
    document.approval ? [{ name, run: document.approval, label: labelIn(document, document.latest) }] : [],
  );
  const people = await namesOf(
    context,
    runs.map(({ run }) => run.submitterId),
  );
  return runs.map(({ name, run, label }) => ({
    document: name,
    label,
    submittedBy: people.get(run.submitterId) ?? nobody,
    at: run.submittedAt.toISOString(),
    comment: run.comment,
  }));
}

async function submissionViews(
  context: Context,
  submitted: readonly NamedDocument[],
): Promise<contract.Desk['outForDecision']> {
  const runs = submitted.flatMap(({ name, access: { document } }) =>
    document.approval ? [{ name, run: document.approval, label: labelIn(document, document.latest) }] : [],
  );
  const asked = runs.flatMap(({ run }) => waitingFor(run).map(({ personId }) => personId));
  const people = await namesOf(context, asked);
  return runs.map(({ name, run, label }) => ({
    document: name,
    label,
    waitingFor: waitingFor(run).map(({ personId }) => people.get(personId) ?? nobody),
    at: run.submittedAt.toISOString(),
    comment: run.comment,
  }));
}

async function rejections(
  context: Context,
  named: readonly NamedDocument[],
  personId: string,
): Promise<contract.Desk['cameBack']> {
  const seen = named.filter((one) => seesLatest(one) && one.access.document.custody?.holderId !== personId);
  const last = await lastRejections(
    context,
    seen.map(({ access }) => access.document.latest.id),
  );
  return seen.flatMap(({ access: { document }, name }) => {
    const rejection = last.get(document.latest.id);
    if (!rejection) return [];
    const { by, at, comment } = rejection;
    const label = labelIn(document, document.latest);
    return [{ document: name, label, by, at: at.toISOString(), comment }];
  });
}
