import { createHash } from 'node:crypto';
import type * as contract from '@polychron/contract';
import {
  checkIn, checkOut, changeFields, discard, explain, explainVersion, formatLabel, isRefusal, labelsToCome, may, type Outcome, publish, restore,
  type Role, sightFacts, type Version,
} from '@polychron/core';
import type { Context } from '../context.ts';
import { rows, type Tx } from '../store/database.ts';
import { namesOf, toVersion } from '../store/documents.ts';
import { newestVisible } from '../store/visibleVersions.ts';
import type { Access } from './access.ts';

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
      words: version.content.words, fields: version.fields, sheltered: version.sheltered, thinned: null,
      inForceFrom: instant(version.inForceFrom), why: explainVersion(document, actor, version).why,
    };
  }));
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
    [document.ownerId, ...document.coAuthorIds, ...(document.custody ? [document.custody.holderId] : [])]), tx);
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
    const changes = seesLatest && may(actor.roles, 'checkIn');
    return {
      id: document.id, number: document.number, library: { id: libraryId, code: library?.code ?? '', name: library?.name ?? '' },
      title: latest.fields.title, fileName: latest.fileName, fields: latest.fields,
      owner: person(document.ownerId), coAuthors: document.coAuthorIds.map(person),
      inForce, latest, versions: visible.get(document.id)?.total ?? 0,
      strand: newest.map(({ id, label, state, standing, at, origin }) => ({ id, label, state, standing, at, origin })),
      custody: custodyView(context, access, person),
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

/** What the caller may do now, asked of core itself with an otherwise faultless command. */
function actsOf({ document, actor }: Access, now: Date): contract.Document['acts'] {
  const answer = (outcome: Outcome): { allowed: boolean; why: string | null } =>
    isRefusal(outcome) ? { allowed: false, why: outcome.reason } : { allowed: true, why: null };
  const earlier = { ...document.latest, id: 'an earlier version' };
  return {
    checkOut: answer(checkOut(document, actor, { reason: null, until: null }, now)),
    checkIn: answer(checkIn(document, actor, {
      level: 'major', comment: 'x', keepCheckedOut: false, confirm: ['same-bytes', 'other-name', 'other-type', 'stale-base'], content: null, keepFileName: true,
    }, now)),
    discard: answer(discard(document, actor)),
    restore: answer(restore(document, actor, { from: earlier, level: 'major', comment: '', fields: false }, now)),
    publish: answer(publish(document, actor, { version: document.latest, comment: '' }, now)),
    changeFields: answer(changeFields(document, actor, { fields: { title: `${document.latest.fields.title} ` }, comment: '' }, now)),
  };
}

/** How many members see what is in force, and how many the latest version. */
export async function countViewers(context: Context, { document }: Access): Promise<{ inForce: number; latest: number }> {
  const members = await rows<{ person_id: string; roles: string }>(context.db,
    'SELECT person_id, GROUP_CONCAT(role) AS roles FROM members WHERE library_id = :libraryId GROUP BY person_id', { libraryId: document.libraryId });
  const see = (version: Version | null): number => version === null ? 0 : members.filter((member) =>
    explain({ id: member.person_id, roles: new Set(member.roles.split(',') as Role[]) }, sightFacts(document, version), document.rules).sees).length;
  return { inForce: see(document.inForce), latest: see(document.latest) };
}

/**
 * An entity tag of what the caller sees, never of what is hidden from them: the label of the version it tells of, and a hash of
 * the whole answer (RFC 9110, 8.8.3).
 */
export function entityTag(view: unknown, label = ''): string {
  return `"${label}${label && '-'}${createHash('sha256').update(JSON.stringify(view)).digest('hex').slice(0, 24)}"`;
}
