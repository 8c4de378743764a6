import type * as contract from '@polychron/contract';
import {
  maySee,
  shownValues,
  publishedAs,
  labelIn,
  labelsToCome,
  may,
  type Registered,
  takenBackWithin,
  neverInForce,
  sightFacts,
  type ToCome,
  type Version,
  waitingFor,
  type ApprovalOutlook,
  asInForce,
  ifApproved,
} from '@polychron/core';
import type { SightIn } from '../access/admission.ts';
import { type Access, onlyLooks } from '../access/caller.ts';
import { sees } from '../access/sees.ts';
import { entityTag } from '../access/preconditions.ts';
import type { Context } from '../context.ts';
import type { Tx } from '../store/database.ts';
import { loadDocuments, type LoadedDocument } from '../store/documents.ts';
import { registrationsOf } from '../store/ledger.ts';
import { rolesIn } from '../store/members.ts';
import { nobody } from '../store/people.ts';
import { lastReviews } from '../store/reviews.ts';
import {
  findVersions,
  newestOutlines,
  type Sight,
  type VersionOutline,
  type Visible,
} from '../store/versions.ts';
import { custodyView } from './custodyView.ts';
import { readingView } from './distribution.ts';
import { fieldsView, peopleIn, type PersonOf } from './fieldsView.ts';
import { documentActs } from './mayDo.ts';
import { newestSeenThen } from './seenVersions.ts';
import { instant, originView, seenLabel, tellVersions, thinnedView } from './versionView.ts';

/** Versions drawn on the small Strand of a Register row. */
const strandLength = 30;

/** The numbers the next version of a document would get. */
export const toComeOf = ({ rules, highest, presentEra }: LoadedDocument): ToCome =>
  labelsToCome(rules, highest, presentEra);

/**
 * Documents of one library as the API tells them, in the order given, in a fixed number of queries; those the
 * actor sees nothing of are left out. Inside a transaction its connection is used: acts that each waited for
 * a second one could use up the pool.
 */
export async function documentViews(
  context: Context,
  accesses: readonly Access[],
  tx?: Tx,
): Promise<contract.Document[]> {
  const [first] = accesses;
  if (!first) return [];
  const sight = { actor: first.actor, rules: first.document.rules };
  const ids = accesses.map(({ document: { id } }) => id);
  if (first.past) {
    const strands = await newestSeenThen(context, accesses, strandLength);
    const latest = [...strands.values()].flatMap(({ versions }) => versions.at(-1) ?? []);
    return tell(context, accesses, { strands, latest }, tx);
  }
  const strands = await strandsOf(context, sight, ids, tx);
  return tell(context, accesses, { strands, latest: await latestOf(context, accesses, strands, tx) }, tx);
}

/** Documents of one library by id, as somebody sees them: their states and their Strands are read at once. */
export async function documentsSeen(
  context: Context,
  sight: SightIn,
  ids: readonly string[],
): Promise<contract.Document[]> {
  const known = new Map([[sight.libraryId, sight.state]]);
  const [documents, strands] = await Promise.all([
    loadDocuments(context, ids, undefined, known),
    strandsOf(context, sight, ids),
  ]);
  const accesses = ids.flatMap((id) => {
    const document = documents.get(id);
    return document ? [{ document, actor: sight.actor }] : [];
  });
  return tell(context, accesses, { strands, latest: await latestOf(context, accesses, strands) });
}

/** The newest versions that are seen, by document. */
type Strands = ReadonlyMap<string, Visible<VersionOutline>>;

const strandsOf = (context: Context, sight: Sight, documentIds: readonly string[], tx?: Tx) =>
  newestOutlines(context, sight, { documentIds, count: strandLength }, tx);

/** The last of these of each document, whole: mostly one that its state names. */
async function latestOf(
  context: Context,
  accesses: readonly Access[],
  strands: Strands,
  tx?: Tx,
): Promise<Version[]> {
  const stated = accesses.flatMap(({ document: { latest, inForce } }) =>
    inForce ? [latest, inForce] : [latest],
  );
  const known = new Map(stated.map((version) => [version.id, version]));
  const wanted = [...strands.values()].flatMap(({ versions }) => versions.at(-1)?.id ?? []);
  const others = await findVersions(
    context,
    wanted.filter((id) => !known.has(id)),
    tx,
  );
  return wanted.flatMap((id) => known.get(id) ?? others.get(id) ?? []);
}

async function tell(
  context: Context,
  accesses: readonly Access[],
  { strands, latest: newest }: { strands: Strands; latest: readonly Version[] },
  tx?: Tx,
): Promise<contract.Document[]> {
  const whole = new Map(newest.map((version) => [version.id, version]));
  const seen = accesses.flatMap((access) => {
    const visible = strands.get(access.document.id);
    const latest = whole.get(visible?.versions.at(-1)?.id ?? '');
    return visible && latest ? [{ access, visible, latest }] : [];
  });
  const { people, views, sources } = await tellVersions(context, seen.map(shownWhole), {
    alsoNamed: seen.flatMap((one) => peopleOf(one.access.document)),
    tx,
  });
  const person = (id: string): contract.Person => people.get(id) ?? nobody;
  const now = seen[0]?.access.past?.at ?? context.clock();
  const registered = await registrationsOf(context, newlyRegistered(accesses, now), tx);
  const facts: ViewFacts = { person, views, sources, now, registered };
  return seen.map((one) => toView(one, facts));
}

/** A document of which the actor sees something. */
interface Seen {
  access: Access;
  visible: Visible<VersionOutline>;
  /** The latest version the actor sees. */
  latest: Version;
}

interface ViewFacts {
  person: PersonOf;
  views: ReadonlyMap<string, contract.Version>;
  /** Versions others were made of. */
  sources: ReadonlyMap<string, VersionOutline>;
  now: Date;
  /** Of documents that whoever registered them may take back. */
  registered: ReadonlyMap<string, Registered>;
}

const peopleOf = (document: LoadedDocument): (string | null)[] => {
  const { ownerId, coAuthorIds, approvers, custody, setAside, approval, administrative } = document;
  return [
    ownerId,
    ...coAuthorIds,
    ...approvers.map(({ id }) => id),
    custody?.holderId ?? null,
    ...setAside.map(({ personId }) => personId),
    ...peopleIn(administrative),
    document.voided?.byId ?? null,
    ...(approval ? [approval.submitterId, ...approval.posts.map(({ personId }) => personId)] : []),
  ];
};

/** Documents that somebody may take back, if they registered them: those that are new. */
const newlyRegistered = (accesses: readonly Access[], now: Date): string[] =>
  accesses
    .filter(({ document, actor }) => {
      const isNew = now.getTime() - document.registeredAt.getTime() <= takenBackWithin;
      return isNew && !may(actor.roles, 'void');
    })
    .map(({ document }) => document.id);

/** That a document is void. */
export const voidedView = ({ voided }: LoadedDocument, person: PersonOf): contract.Document['voided'] =>
  voided && { by: person(voided.byId), at: voided.at.toISOString(), reason: voided.reason };

/** What is in force, where it is told: every member sees it, but who looks back may not see it any more. */
function inForceSeen(access: Access): Version[] {
  const { inForce } = access.document;
  return inForce && (!access.past || sees(access, inForce)) ? [inForce] : [];
}

/** The versions of a document that are shown with all there is to tell of them. */
const shownWhole = ({ access, latest, visible }: Seen) => ({
  access,
  versions: [latest, ...inForceSeen(access)],
  run: { versions: visible.versions, whole: visible.versions.length === visible.total },
});

function toView(seen: Seen, facts: ViewFacts): contract.Document {
  const { access, visible } = seen;
  const { document, actor } = access;
  const { person, now } = facts;
  const latest = required(facts.views.get(seen.latest.id));
  const [inForce = null] = inForceSeen(access).map(({ id }) => required(facts.views.get(id)));
  const changes = sees(access, document.latest) && may(actor.roles, 'checkIn');
  const commentRequired = document.rules.checkInComment === 'required';
  const scheduled = document.scheduled.flatMap((version) =>
    version.inForceFrom
      ? [{ label: labelIn(document, version), inForceFrom: version.inForceFrom.toISOString() }]
      : [],
  );
  const toCome = {
    ...toComeOf(document),
    publishedAs: publishedAs(document),
    commentRequired,
    scheduled,
  };
  return {
    id: document.id,
    number: document.number,
    library: { id: document.libraryId, ...document.library },
    title: latest.fields.title,
    fileName: latest.fileName,
    fields: fieldsView(
      {
        ...seen.latest.fields,
        own: shownValues(document.rules, seen.latest.fields.own ?? {}, document.administrative),
      },
      person,
    ),
    owner: person(document.ownerId),
    coAuthors: document.coAuthorIds.map(person),
    inForce,
    latest,
    versions: visible.total,
    templateFor: document.templateFor,
    limited: document.limit !== null,
    voided: voidedView(document, person),
    reading: null,
    readers: null,
    reviewBy: inForce && document.reviewBy,
    lastReview: null,
    strand: visible.versions.map((version) => strandPoint(access, version, facts.sources)),
    custody: custodyView(access, person, now),
    setAside: document.setAside.flatMap(({ base, personId, at }) => {
      const label = seenLabel(access, base);
      if (label === null) return [];
      return [{ holder: person(personId), base: label, baseId: base.id, at: at.toISOString() }];
    }),
    approval: approvalView(access, person, now),
    approvers: document.approvers.map(({ id }) => person(id)),
    toCome: changes && !onlyLooks(actor) ? toCome : null,
    acts: documentActs(access, now, facts.registered.get(document.id) ?? null),
    seenBy: null,
  };
}

function required<T>(view: T | undefined): T {
  if (view === undefined) throw new Error('a version that was asked for has a view');
  return view;
}

/** A version as the small Strand draws it. */
function strandPoint(
  access: Access,
  version: VersionOutline,
  sources: ReadonlyMap<string, VersionOutline>,
): contract.Document['strand'][number] {
  const { id, state, standing, sheltered, origin, content } = version;
  return {
    id,
    label: labelIn(access.document, version),
    state,
    standing,
    at: version.at.toISOString(),
    origin: originView(access, origin, sources),
    thinned: thinnedView(version),
    sheltered,
    inForceFrom: instant(version.inForceFrom),
    size: content.size,
    words: content.words,
  };
}

/** The open approval run, for those who see the version it is about. */
function approvalView(access: Access, person: PersonOf, now: Date): contract.Approval | null {
  const { document, actor } = access;
  const { approval: run, latest, rules } = document;
  if (!run || !sees(access, latest)) return null;
  const version = labelIn(document, latest);
  const outlook = (inPlace: boolean): contract.Approval['ifApproved'] =>
    !onlyLooks(actor) ? outlookView(document, ifApproved(document, actor, now, inPlace), person) : null;
  return {
    version,
    mode: run.mode,
    submittedBy: person(run.submitterId),
    at: run.submittedAt.toISOString(),
    comment: run.comment,
    inForceFrom: instant(run.inForceFrom),
    posts: run.posts.map(({ personId, decision, at, comment, inPlace }) => ({
      person: person(personId),
      decision,
      at: instant(at),
      comment,
      inPlace,
    })),
    waitingFor: waitingFor(run).map(({ personId }) => person(personId)),
    publishes: rules.approval.publishing === 'onApproval',
    becomes: publishedAs(document),
    ifApproved: outlook(false),
    ifApprovedInPlace: outlook(true),
  };
}

function outlookView(
  document: LoadedDocument,
  outlook: ApprovalOutlook | null,
  person: PersonOf,
): contract.Approval['ifApproved'] {
  if (!outlook) return null;
  const { asked, published } = outlook;
  return {
    asked: asked.map(({ personId }) => person(personId)),
    published: published && { label: published.label, inForceFrom: instant(published.inForceFrom) },
    never: published
      ? neverInForce(document.scheduled, published.inForceFrom).map((version) => labelIn(document, version))
      : [],
  };
}

/** How many members see what is in force, how many the latest version, and how many once it is in force. */
async function countViewers(
  context: Context,
  { document }: Access,
): Promise<NonNullable<contract.Document['seenBy']>> {
  const members = [...(await rolesIn(context, document.libraryId, null))];
  const count = (version: Version): number =>
    members.filter(([id, roles]) => maySee({ id, roles }, sightFacts(document, version), document.rules))
      .length;
  const { inForce, latest } = document;
  return {
    inForce: inForce ? count(inForce) : 0,
    latest: count(latest),
    latestInForce: count(asInForce(latest)),
  };
}

/** The last review of what is in force, as far as it is told to the actor. */
async function lastReviewOf(
  context: Context,
  { actor, past }: Access,
  inForce: contract.Version | null,
): Promise<contract.Document['lastReview']> {
  if (!inForce) return null;
  const review = (await lastReviews(context, [inForce.id], { by: past?.at ?? null })).get(inForce.id);
  // That a change is being prepared is told elsewhere, to whom it concerns.
  if (!review || (review.outcome === 'opened' && !may(actor.roles, 'seePast'))) return null;
  const { account, name, at, outcome, comment, nextBy } = review;
  const words = may(actor.roles, 'seePast') ? comment : null;
  return { by: { account, name }, at: at.toISOString(), outcome, comment: words, nextBy };
}

/** A document's view and entity tag for somebody who has access to it. */
export async function documentAnswer(
  context: Context,
  access: Access,
): Promise<{ view: contract.Document; tag: string }> {
  const [view] = await documentViews(context, [access]);
  if (!view) throw new Error(`document ${access.document.id} was accessed but has no visible version`);
  const seenBy = view.toCome ? await countViewers(context, access) : null;
  const lastReview = await lastReviewOf(context, access, view.inForce);
  const readings = await readingView(context, access);
  return { view: { ...view, ...readings, seenBy, lastReview }, tag: documentTag(view) };
}

/** Changes with what the caller sees of the document, custody included. */
export function documentTag(view: contract.Document): string {
  const { latest, inForce, custody, approval, owner, coAuthors, approvers, reviewBy } = view;
  const { fields, templateFor, limited, voided } = view;
  return entityTag(
    [
      latest,
      inForce,
      custody,
      approval,
      owner,
      coAuthors,
      approvers,
      reviewBy,
      fields,
      templateFor,
      limited,
      voided,
    ],
    latest.label,
  );
}
