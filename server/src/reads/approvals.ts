import type * as contract from '@polychron/contract';
import { asInForce, labelIn, maySee, seesVersion, sightFacts, waitingFor } from '@polychron/core';
import type { Access, Asker } from '../access/caller.ts';
import type { Context } from '../context.ts';
import { endedRuns, toRun } from '../store/approvals.ts';
import { type ApprovalListing, findApprovals } from '../store/approvalLists.ts';
import { partOf, readCursor, writeCursor } from '../store/cursors.ts';
import { loadDocuments } from '../store/documents.ts';
import { rolesIn } from '../store/members.ts';
import { namesOf, nobody } from '../store/people.ts';
import { sightsOf } from './sights.ts';
import { instant } from './versionView.ts';

/** What waits for the caller's decision, or is out for others'. */
export async function listApprovals(
  asker: Asker,
  { part, state, cursor, limit }: contract.ApprovalQuery,
): Promise<contract.ApprovalList> {
  const { context, caller } = asker;
  const [at, id] = readCursor(cursor, 2) ?? [];
  const after = at === undefined || id === undefined ? null : ([new Date(at), id] as const);
  const listing: ApprovalListing = part === 'toDecide' ? part : state;
  const sights = await sightsOf(asker);
  const asked = { listing, personId: caller.id, after, count: limit + 1 };
  const { found, total } = await findApprovals(context, sights, asked);
  const { shown, next } = partOf(found, limit, (last) => writeCursor([last.at.toISOString(), last.id]));
  const documents = await loadDocuments(
    context,
    shown.map(({ documentId }) => documentId),
  );
  const actors = new Map(sights.map(({ libraryId, actor }) => [libraryId, actor]));
  const accesses = shown.flatMap(({ documentId }): Access[] => {
    const document = documents.get(documentId);
    const actor = actors.get(document?.libraryId ?? '');
    return document && actor ? [{ document, actor }] : [];
  });
  return { items: await itemsOf(context, accesses), next, total };
}

/** Documents that wait for the caller's decision, the longest waiting first, and how many there are. */
export async function toDecide(asker: Asker, count: number): Promise<{ ids: string[]; total: number }> {
  const asked = { listing: 'toDecide', personId: asker.caller.id, after: null, count } as const;
  const { found, total } = await findApprovals(asker.context, await sightsOf(asker), asked);
  return { ids: found.map(({ documentId }) => documentId), total };
}

async function itemsOf(
  context: Context,
  accesses: readonly Access[],
): Promise<contract.ApprovalList['items']> {
  const ended = await endedRuns(
    context,
    accesses.flatMap(({ document }) => (document.approval ? [] : [document.latest.id])),
  );
  const told = accesses.flatMap((access) => {
    const last = ended.get(access.document.latest.id);
    const run = access.document.approval ?? (last && toRun(last, () => ''));
    return run ? [{ access, run }] : [];
  });
  const [people, members] = await Promise.all([
    namesOf(
      context,
      told.flatMap(({ run }) => [run.submitterId, ...run.posts.map(({ personId }) => personId)]),
    ),
    membersOf(context, accesses),
  ]);
  const person = (id: string): contract.Person => people.get(id) ?? nobody;
  return told.map(({ access, run }) => {
    const { document, actor } = access;
    const { id, number, latest, inForce, library, libraryId } = document;
    const facts = sightFacts(document, asInForce(latest));
    const viewers = [...(members.get(libraryId) ?? [])].filter(([memberId, roles]) =>
      maySee({ id: memberId, roles }, facts, document.rules),
    );
    return {
      document: { id, number, title: latest.fields.title, library: { id: libraryId, ...library } },
      version: labelIn(document, latest),
      state: latest.state,
      inForce: inForce && seesVersion(document, actor, inForce) ? labelIn(document, inForce) : null,
      submittedBy: person(run.submitterId),
      at: run.submittedAt.toISOString(),
      comment: run.comment,
      posts: run.posts.map(({ personId, decision, at, comment, inPlace }) => ({
        ...person(personId),
        decision,
        at: instant(at),
        comment,
        inPlace,
      })),
      waitingFor: document.approval ? waitingFor(run).map(({ personId }) => person(personId)) : [],
      readers: viewers.length,
    };
  });
}

/** Members of the libraries of documents with their roles, by library. */
async function membersOf(
  context: Context,
  accesses: readonly Access[],
): Promise<Map<string, Awaited<ReturnType<typeof rolesIn>>>> {
  const ids = [...new Set(accesses.map(({ document }) => document.libraryId))];
  const all = await Promise.all(ids.map(async (id) => [id, await rolesIn(context, id, null)] as const));
  return new Map(all);
}
