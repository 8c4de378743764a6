import { createHash } from 'node:crypto';
import type * as contract from '@polychron/contract';
import {
  callBack, checkIn, checkOut, changeFields, decide, discard, explain, explainVersion, formatLabel, isRefusal, keepsNumber, labelsToCome, lift, may, type Outcome, publish, recover, refuse,
  restore, shelter, sightFacts, submit, textFell, thinByHand, upload, type Version, waitingFor,
} from '@polychron/core';
import type { Context } from '../context.ts';
import { rows, type Tx } from '../store/database.ts';
import { namesOf, toVersion } from '../store/documents.ts';
import { sightCondition } from '../store/sightSql.ts';
import { newestVisible } from '../store/visibleVersions.ts';
import { type Access, rolesIn } from './access.ts';

const instant = (at: Date | null): string | null => at?.toISOString() ?? null;

/** Versions of one document as the API tells them. The caller must see every one of them. */
export async function versionViews(context: Context, access: Access, versions: readonly Version[]): Promise<contract.Version[]> {
  return (await versionViewsOf(context, [{ access, versions }]))[0] as contract.Version[];
}

interface Wanted { access: Access; versions: readonly Version[] }

/** Versions of several documents at once, in two queries. */
async function versionViewsOf(context: Context, wanted: readonly Wanted[], tx?: Tx): Promise<contract.Version[][]> {
  const all = wanted.flatMap(({ versions }) => versions);
  const people = await namesOf(context, all.map((version) => version.authorId), tx);
  const sources = new Map((await context.models.Version.findAll({ where: { id: all.flatMap(({ origin }) => origin.from ?? []) }, transaction: tx ?? null }))
    .map((row) => [row.id, toVersion(row)]));
  const wordsBefore = await wordsBeforeThem(context, wanted, tx);
  return wanted.map(({ access, versions }) => versions.map((version) => {
    const { document, actor } = access;
    const source = version.origin.from === null ? undefined : sources.get(version.origin.from);
    const from = source && explainVersion(document, actor, source).sees ? formatLabel(source, document.presentEra) : null;
    return {
      id: version.id, label: formatLabel(version, document.presentEra), era: version.era, major: version.major, minor: version.minor,
      state: version.state, standing: version.standing,
      author: people.get(version.authorId) ?? { account: '', name: '' }, at: version.at.toISOString(), comment: version.comment,
      origin: { kind: version.origin.kind, from },
      size: version.content.size, sha256: version.content.sha256, fileName: version.content.fileName, mediaType: version.content.mediaType,
      words: version.content.words, fields: version.fields, sheltered: version.sheltered,
      thinned: version.thinned && { at: version.thinned.at.toISOString(), until: version.thinned.until.toISOString(), why: version.thinned.why },
      inForceFrom: instant(version.inForceFrom), supersededAt: instant(version.supersededAt),
      textFell: textFell(version.content.words, wordsBefore.get(version.id) ?? null),
      why: explainVersion(document, actor, version, actor.lookingAs ? { name: actor.name } : 'you').why, acts: versionActsOf(access, version, context.clock()),
    };
  }));
}

/** The words of the version right before each, of those the caller sees. */
async function wordsBeforeThem(context: Context, wanted: readonly Wanted[], tx?: Tx): Promise<Map<string, number | null>> {
  const [first] = wanted;
  const ids = wanted.flatMap(({ versions }) => versions.map(({ id }) => id));
  if (!first || ids.length === 0) return new Map();
  const { actor, document } = first.access;
  const found = await rows<{ id: string; words: number | null }>(context.db,
    `SELECT w.id, (SELECT v.words FROM versions v WHERE v.document_id = w.document_id AND v.sequence < w.sequence AND ${sightCondition(actor, document.rules)} ORDER BY v.sequence DESC LIMIT 1) AS words
     FROM versions w JOIN documents d ON d.id = w.document_id LEFT JOIN checkouts c ON c.document_id = w.document_id WHERE w.id IN (:ids)`,
    { ids, viewer: actor.id }, tx);
  return new Map(found.map(({ id, words }) => [id, words]));
}

const answerOf = (outcome: Outcome): { allowed: boolean; why: string | null } =>
  (isRefusal(outcome) ? { allowed: false, why: outcome.reason } : { allowed: true, why: null });

/** While a controller looks as somebody else nothing can be done. */
const onlyLooking = (name: string): Outcome => refuse('forbidden', 'only-looking', `You are looking as ${name} and can only look. Go back to yourself to act.`);

function versionActsOf({ document, actor }: Access, version: Version, now: Date): contract.Version['acts'] {
  const given = { version, reason: 'x' };
  const of = (outcome: () => Outcome): contract.Version['acts']['thin'] => answerOf(actor.lookingAs ? onlyLooking(actor.name) : outcome());
  return {
    thin: of(() => thinByHand(document, actor, given, now)), recover: of(() => recover(document, actor, given, now)),
    shelter: of(() => shelter(document, actor, { ...given, sheltered: true })), unshelter: of(() => shelter(document, actor, { ...given, sheltered: false })),
  };
}

/** Versions drawn on the small Strand of a Register row. */
const strandLength = 30;

/**
 * Documents of one library as the API tells them, in the order given, in a fixed number of queries. Inside a transaction its connection is
 * used: acts that each waited for a second one could use up the pool.
 */
export async function documentViews(context: Context, accesses: readonly Access[], tx?: Tx): Promise<contract.Document[]> {
  const [first] = accesses;
  if (!first) return [];
  const { libraryId, rules } = first.document;
  const library = await context.models.Library.findByPk(libraryId, { transaction: tx ?? null });
  const visible = await newestVisible(context, first.actor, rules, accesses.map(({ document }) => document.id), strandLength, tx);
  const people = await namesOf(context, accesses.flatMap(({ document }) =>
    [document.ownerId, ...document.coAuthorIds, ...document.approvers.map(({ id }) => id), ...(document.custody ? [document.custody.holderId] : []), ...document.setAside.map(({ personId }) => personId),
      ...(document.approval ? [document.approval.submitterId, ...document.approval.posts.map((post) => post.personId)] : [])]), tx);
  const person = (id: string): contract.Person => people.get(id) ?? { account: '', name: '' };
  const seen = accesses.filter(({ document }) => visible.has(document.id));
  const views = await versionViewsOf(context, seen.map((access): Wanted => ({
    access, versions: [...visible.get(access.document.id)?.versions ?? [], ...(access.document.inForce ? [access.document.inForce] : [])],
  })), tx);
  return seen.map((access, index): contract.Document => {
    const { document, actor } = access;
    const all = views[index] as contract.Version[];
    const inForce = document.inForce ? all.at(-1) as contract.Version : null;
    const newest = document.inForce ? all.slice(0, -1) : all;
    const latest = newest.at(-1) as contract.Version;
    const seesLatest = explainVersion(document, actor, document.latest).sees;
    const changes = seesLatest && may(actor.roles, 'checkIn') && !actor.lookingAs;
    return {
      id: document.id, number: document.number, library: { id: libraryId, code: library?.code ?? '', name: library?.name ?? '' },
      title: latest.fields.title, fileName: latest.fileName, fields: latest.fields,
      owner: person(document.ownerId), coAuthors: document.coAuthorIds.map(person),
      inForce, latest, versions: visible.get(document.id)?.total ?? 0,
      strand: newest.map(({ id, label, state, standing, at, origin, thinned, sheltered, inForceFrom: from, size, words }) => ({ id, label, state, standing, at, origin, thinned, sheltered, inForceFrom: from, size, words })),
      custody: custodyView(context, access, person),
      setAside: document.setAside.filter(({ base }) => explainVersion(document, actor, base).sees)
        .map(({ base, personId, at }) => ({ holder: person(personId), base: formatLabel(base, document.presentEra), baseId: base.id, at: at.toISOString() })),
      approval: approvalView(access, person),
      approvers: document.approvers.map(({ id }) => person(id)),
      toCome: changes ? { ...labelsToCome(document), commentRequired: rules.checkInComment === 'required' } : null,
      acts: actsOf(access, context.clock()),
      seenBy: null,
    };
  });
}

/** Who holds the document; base, end, reason and saves only for those who see the base. */
export function custodyView(context: Context, { document, actor }: Access, person: (id: string) => contract.Person): contract.Custody | null {
  const { custody } = document;
  if (!custody) return null;
  const mine = custody.holderId === actor.id;
  const known = explainVersion(document, actor, custody.base).sees && (mine || explainVersion(document, actor, document.latest).sees);
  return {
    holder: person(custody.holderId), mine, since: custody.since.toISOString(),
    until: known ? instant(custody.until) : null,
    reason: known ? custody.reason : null,
    base: known ? formatLabel(custody.base, document.presentEra) : null,
    saves: known ? custody.saves : 0,
    lastSavedAt: known ? instant(custody.lastSavedAt) : null,
    overdue: known && custody.until !== null && custody.until.getTime() < context.clock().getTime(),
    workingCopy: mine && custody.workingCopy
      ? { fileName: custody.workingCopy.fileName, size: custody.workingCopy.size, sha256: custody.workingCopy.sha256 }
      : null,
  };
}

/** The open approval run, for those who see the version it is about. */
function approvalView({ document, actor }: Access, person: (id: string) => contract.Person): contract.Approval | null {
  const run = document.approval;
  if (!run || !explainVersion(document, actor, document.latest).sees) return null;
  return {
    version: formatLabel(document.latest, document.presentEra), mode: run.mode, submittedBy: person(run.submitterId), at: run.submittedAt.toISOString(), comment: run.comment,
    inForceFrom: instant(run.inForceFrom),
    posts: run.posts.map((post) => ({ person: person(post.personId), decision: post.decision, at: instant(post.at), comment: post.comment })),
    waitingFor: waitingFor(run).map((post) => person(post.personId)),
    publishes: document.rules.approval.publishing === 'onApproval',
    becomes: keepsNumber(document.latest) ? formatLabel(document.latest, document.presentEra) : labelsToCome(document).major,
  };
}

/** What the caller may do now, asked of core itself with an otherwise faultless command. */
function actsOf({ document, actor }: Access, now: Date): contract.Document['acts'] {
  const earlier = { ...document.latest, id: 'an earlier version', thinned: null };
  const { latest } = document;
  const given = { version: latest, comment: '', inForceFrom: null };
  const upToDate = { level: 'major' as const, comment: 'x', confirm: ['same-bytes', 'other-name', 'other-type', 'stale-base'] as const, keepFileName: true };
  const content = { ...latest.content, size: 0 };
  const outcomes: Record<contract.Act, () => Outcome> = {
    checkOut: () => checkOut(document, actor, { reason: null, until: null }, now),
    checkIn: () => checkIn(document, actor, { ...upToDate, keepCheckedOut: false, content }, now),
    upload: () => upload(document, actor, { ...upToDate, content, basedOn: latest }, now),
    discard: () => discard(document, actor),
    lift: () => lift(document, actor, { reason: 'x' }),
    restore: () => restore(document, actor, { from: earlier, level: 'major', comment: '', fields: false }, now),
    publish: () => publish(document, actor, given, now),
    changeFields: () => changeFields(document, actor, { fields: { title: `${latest.fields.title} ` }, comment: '' }, now),
    submit: () => submit(document, actor, given, now),
    decide: () => decide(document, actor, { version: latest, decision: 'approve', comment: '' }, now),
    callBack: () => callBack(document, actor, { comment: '' }, now),
  };
  return Object.fromEntries(Object.entries(outcomes).map(([name, outcome]) => [name, answerOf(actor.lookingAs ? onlyLooking(actor.name) : outcome())])) as contract.Document['acts'];
}

/** How many members see what is in force, and how many the latest version. */
export async function countViewers(context: Context, { document }: Access): Promise<{ inForce: number; latest: number }> {
  const members = [...await rolesIn(context, document.libraryId, null)];
  const see = (version: Version | null): number => version === null ? 0 : members.filter(([id, roles]) => explain({ id, roles }, sightFacts(document, version), document.rules).sees).length;
  return { inForce: see(document.inForce), latest: see(document.latest) };
}

/**
 * An entity tag of what the caller sees, never of what is hidden from them: the label of the version it tells of, and a hash of
 * the whole answer (RFC 9110, 8.8.3).
 */
export function entityTag(view: unknown, label = ''): string {
  return `"${label}${label && '-'}${createHash('sha256').update(JSON.stringify(view)).digest('hex').slice(0, 24)}"`;
}
