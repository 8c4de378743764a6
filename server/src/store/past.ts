import {
  type ApprovalRun,
  circleOf,
  type Custody,
  maySeeAsOf,
  type Named,
  type OwnValues,
  readStoredRulebook,
  type ParsedLabel,
  type Role,
  type Rulebook,
  type Version,
  type VersionNumber,
  type Viewer,
} from '@polychron/core';
import { toRun, withPosts } from './approvals.ts';
import { columnsOf, rows } from './database.ts';
import { loadDocuments, type LoadedDocument, toVoided } from './documents.ts';
import { type ApprovalRunRow, type CustodyPeriodRow, parseJson, type VersionRow } from './models.ts';
import { namesOf } from './people.ts';
import { nobodyNamed } from './named.ts';
import { covering, heldAt } from './periods.ts';
import { type KeptReview, lastReviews } from './reviews.ts';
import type { Store } from './store.ts';
import { standingColumns, toVersion, unchangingColumns } from './versions.ts';

/** Who looks back in a library: with the roles they held then, and those they hold. */
export interface LookingBack {
  then: Viewer;
  now: Viewer;
}

/** A version somebody sees of a document when looking back: its place, number and words. */
export interface SeenThen extends VersionNumber {
  id: string;
  sequence: number;
  words: number | null;
}

/** A document as it was at an earlier moment. */
export interface PastDocument {
  document: LoadedDocument;
  at: Date;
  /** Versions the viewer saw then and may see now, by id, oldest first. */
  seen: ReadonlyMap<string, SeenThen>;
  /** The document as it is, and whoever looks with the roles they hold. */
  now: { document: LoadedDocument; viewer: Viewer };
}

/** The roles somebody held in a library at a moment. */
export async function rolesAsOf(
  store: Store,
  libraryId: string,
  personId: string,
  at: Date,
): Promise<Set<Role>> {
  const held = await rows<{ role: Role }>(
    store.db,
    `SELECT p.role FROM role_periods p
     WHERE p.library_id = :libraryId AND p.person_id = :personId AND ${covering('p')}`,
    { libraryId, personId, at },
  );
  return new Set(held.map(({ role }) => role));
}

/** The rules of libraries at a moment, by library; those of later libraries are their first. */
export async function rulesAsOf(
  store: Store,
  libraryIds: readonly string[],
  at: Date,
): Promise<Map<string, Rulebook>> {
  if (libraryIds.length === 0) return new Map();
  const found = await rows<{ libraryId: string; rulebook: unknown }>(
    store.db,
    `SELECT r.library_id AS libraryId, r.rulebook FROM rulebook_revisions r
     WHERE r.library_id IN (:libraryIds) AND r.revision = COALESCE((SELECT MAX(e.revision) FROM rulebook_revisions e
         WHERE e.library_id = r.library_id AND e.at <= :at), 1)`,
    { libraryIds: [...new Set(libraryIds)], at },
  );
  return new Map(found.map((row) => [row.libraryId, readStoredRulebook(parseJson(row.rulebook))]));
}

/**
 * Documents of one library as they were at a moment, for somebody who looks back; those that were not there
 * yet, or of which they saw nothing that they may see now, are left out. What it costs grows with the
 * histories of these documents.
 */
export async function documentsAsOf(
  store: Store,
  ids: readonly string[],
  { at, viewers }: { at: Date; viewers: LookingBack },
): Promise<Map<string, PastDocument>> {
  if (ids.length === 0) return new Map();
  const given = { ids, at };
  const [present, standings, teams, held, runs] = await Promise.all([
    loadDocuments(store, ids),
    rows<StoodRow>(store.db, stood, given),
    rows<TeamRow>(store.db, teamsThen, given),
    rows<HeldRow>(store.db, heldThen, given),
    openRunsAsOf(store, ids, at),
  ]);
  const rules = await rulesAsOf(
    store,
    [...present.values()].map(({ libraryId }) => libraryId),
    at,
  );
  const shells = [...present.values()].flatMap((now): Shell[] => {
    const of = <T extends { documentId: string }>(list: readonly T[]): T[] =>
      list.filter(({ documentId }) => documentId === now.id);
    const versions = of(standings).sort((a, b) => a.sequence - b.sequence);
    const [team, holding] = [of(teams).at(-1), of(held).at(-1)];
    const rulesThen = rules.get(now.libraryId);
    if (versions.length === 0 || !team || !rulesThen) return [];
    const shell = {
      now,
      versions,
      team,
      held: holding ?? null,
      run: of(runs).at(-1) ?? null,
      rules: rulesThen,
    };
    const seen = versions.filter((version) => isSeen(shell, version, viewers));
    return seen.length > 0 ? [{ ...shell, seen }] : [];
  });
  const whole = await versionsAsOf(store, shells.flatMap(inUse), at);
  const reviews = await lastReviews(store, shells.flatMap(inForceOf), { by: at, outcome: 'confirmed' });
  const people = await namesOf(
    store,
    shells.flatMap(({ team, held: holding, run }) => [
      team.ownerId,
      holding?.holderId ?? null,
      ...(run ? [run.submitterId, ...run.posts.map(({ personId }) => personId)] : []),
    ]),
  );
  const nameOf = (id: string): string => people.get(id)?.name ?? '';
  return new Map(
    shells.map((shell) => {
      const seen = new Map(shell.seen.map((one) => [one.id, one]));
      const now = { document: shell.now, viewer: viewers.now };
      const document = documentThen(shell, { whole, reviews, nameOf });
      return [shell.now.id, { document, at, seen, now }];
    }),
  );
}

/** What was found of a document's past. */
interface Shell {
  now: LoadedDocument;
  /** Every version there was, in the order of the history. */
  versions: readonly StoodRow[];
  team: TeamRow;
  held: HeldRow | null;
  run: OpenRun | null;
  rules: Rulebook;
  seen: readonly StoodRow[];
}

interface StoodRow extends VersionNumber, Pick<Version, 'state' | 'standing'> {
  documentId: string;
  id: string;
  sequence: number;
  authorId: string;
  at: Date;
  words: number | null;
  thinnedAt: Date | null;
  stateNow: Version['state'];
  standingNow: Version['standing'];
  thinnedNow: Date | null;
}
const stood = `SELECT ${columnsOf('v', ['documentId', 'id', 'sequence', 'era', 'major', 'minor', 'numbering', 'authorId', 'at', 'words'])},
    ${columnsOf('p', ['state', 'standing', 'thinnedAt'])},
    v.state AS stateNow, v.standing AS standingNow, v.thinned_at AS thinnedNow
  FROM version_periods p JOIN versions v ON v.id = p.version_id
  WHERE p.document_id IN (:ids) AND ${covering('p')}`;

interface TeamRow {
  documentId: string;
  ownerId: string;
  coAuthorIds: string;
  administrative: string;
  templateFor: string | null;
  circle: string | null;
  voidedAt: Date | null;
  voidedBy: string | null;
  voidedReason: string | null;
}
const teamsThen = `SELECT ${columnsOf('t', ['documentId', 'ownerId', 'coAuthorIds', 'administrative', 'templateFor', 'circle', 'voidedAt', 'voidedBy', 'voidedReason'])}
  FROM team_periods t WHERE t.document_id IN (:ids) AND ${covering('t')}`;

/** A time somebody held a document; until when, as it was said then. */
type HeldRow = Pick<
  CustodyPeriodRow,
  'documentId' | 'holderId' | 'since' | 'untilAt' | 'reason' | 'baseId' | 'door'
>;
const heldThen = `SELECT ${columnsOf('c', ['documentId', 'holderId', 'since', 'reason', 'baseId', 'door'])},
    IF(e.id IS NULL, c.until_at, e.until_at) AS untilAt
  FROM custody_periods c LEFT JOIN earlier_untils e ON e.id = (SELECT MIN(u.id) FROM earlier_untils u
    WHERE u.document_id = c.document_id AND u.changed_at > :at
      AND (c.ended_at IS NULL OR u.changed_at <= c.ended_at))
  WHERE c.document_id IN (:ids) AND ${heldAt('c')}
  ORDER BY c.since, c.id`;

type OpenRun = ApprovalRun & { documentId: string };

/** Runs that waited for decisions at a moment, with what was decided by then. */
async function openRunsAsOf(store: Store, ids: readonly string[], at: Date): Promise<OpenRun[]> {
  const found = await rows<ApprovalRunRow>(
    store.db,
    `SELECT ${columnsOf('r', ['id', 'documentId', 'versionId', 'mode', 'submitterId', 'submittedAt', 'comment', 'inForceFrom'])}
     FROM approval_runs r WHERE r.document_id IN (:ids) AND r.submitted_at <= :at
       AND (r.ended_at IS NULL OR r.ended_at > :at) ORDER BY r.submitted_at`,
    { ids, at },
  );
  const told = await withPosts(store, found);
  return told.map(({ run, posts }) => ({
    ...toRun({ run, posts: posts.map((post) => decidedBy(post, at)) }, () => ''),
    documentId: run.documentId,
  }));
}

const decidedBy = <P extends { decidedAt: Date | null }>(post: P, at: Date): P =>
  post.decidedAt !== null && post.decidedAt.getTime() > at.getTime()
    ? { ...post, decision: null, decidedAt: null, comment: '' }
    : post;

function isSeen(shell: Omit<Shell, 'seen'>, version: StoodRow, viewers: LookingBack): boolean {
  const { now, team, held, rules } = shell;
  const common = { label: '', authorId: version.authorId };
  return maySeeAsOf(
    {
      viewer: viewers.then,
      rules,
      facts: {
        ...common,
        state: version.state,
        standing: version.standing,
        thinned: version.thinnedAt !== null,
        ownerId: team.ownerId,
        coAuthorIds: parseJson<string[]>(team.coAuthorIds),
        holderId: held?.holderId ?? null,
        circle: team.circle === null ? null : parseJson<string[]>(team.circle),
        voided: team.voidedAt !== null,
      },
    },
    {
      viewer: viewers.now,
      rules: now.rules,
      facts: {
        ...common,
        state: version.stateNow,
        standing: version.standingNow,
        thinned: version.thinnedNow !== null,
        ownerId: now.ownerId,
        coAuthorIds: now.coAuthorIds,
        holderId: now.custody?.holderId ?? null,
        circle: circleOf(now),
        voided: now.voided !== null,
      },
    },
  );
}

const latestOf = ({ versions }: Shell): StoodRow => required(versions.at(-1));

/** The version that was held: what the holder checked in since, else what they took. */
function baseOf(shell: Shell, { since, baseId }: HeldRow): string {
  const latest = latestOf(shell);
  return latest.at.getTime() > since.getTime() ? latest.id : baseId;
}

const inForceOf = ({ versions }: Shell): string[] =>
  versions.filter(({ standing }) => standing === 'inForce').map(({ id }) => id);

/** The versions that a document's state turns on. */
const inUse = (shell: Shell): string[] => [
  latestOf(shell).id,
  ...shell.versions
    .filter(({ standing }) => standing === 'inForce' || standing === 'scheduled')
    .map(({ id }) => id),
  ...(shell.held ? [baseOf(shell, shell.held)] : []),
];

/** Versions as they stood at a moment, by id. */
export async function versionsAsOf(
  store: Store,
  ids: readonly string[],
  at: Date,
): Promise<Map<string, Version>> {
  if (ids.length === 0) return new Map();
  const found = await rows<VersionRow>(
    store.db,
    `SELECT ${columnsOf('v', unchangingColumns)}, ${columnsOf('p', standingColumns)}
     FROM version_periods p JOIN versions v ON v.id = p.version_id
     WHERE p.version_id IN (:ids) AND ${covering('p')} ORDER BY p.id`,
    { ids: [...new Set(ids)], at },
  );
  return new Map(found.map((row) => [row.id, toVersion(row)]));
}

function documentThen(
  shell: Shell,
  found: {
    whole: ReadonlyMap<string, Version>;
    reviews: ReadonlyMap<string, KeptReview>;
    nameOf: (id: string) => string;
  },
): LoadedDocument {
  const { whole, reviews, nameOf } = found;
  const { now, versions, team, held, run, rules } = shell;
  const standing = (as: Version['standing']): Version[] =>
    versions.filter((one) => one.standing === as).map(({ id }) => required(whole.get(id)));
  const presentEra = Math.max(...versions.map(({ era }) => era));
  const ofEra = versions.filter(({ era }) => era === presentEra);
  const latest = required(whole.get(latestOf(shell).id));
  const inForce = standing('inForce').at(-1) ?? null;
  const custody: Custody | null = held && {
    holderId: held.holderId,
    holderName: nameOf(held.holderId),
    since: held.since,
    until: held.untilAt,
    reason: held.reason,
    base: required(whole.get(baseOf(shell, held))),
    // Of saves nothing is kept once they are checked in, nor of programs once they close.
    ...{ workingCopy: null, saves: 0, bytesSaved: 0, lastSavedAt: null, sitting: null },
    ...{ door: held.door, lock: null, askedAt: null },
  };
  return {
    ...now,
    rules,
    ownerId: team.ownerId,
    ownerName: nameOf(team.ownerId),
    coAuthorIds: parseJson<string[]>(team.coAuthorIds),
    administrative: parseJson<OwnValues>(team.administrative),
    templateFor: team.templateFor,
    limit: limitThen(team),
    voided: toVoided(team),
    presentEra,
    highest: ofEra.reduce((high, one) => (isHigher(one, high) ? one : high)),
    latest,
    inForce,
    scheduled: standing('scheduled'),
    approval: run && {
      ...run,
      submitterName: nameOf(run.submitterId),
      posts: run.posts.map((post) => ({ ...post, name: nameOf(post.personId) })),
    },
    approvers: [],
    ownApproverIds: [],
    custody,
    setAside: [],
    setAsideBaseIds: [],
    bytesKept: null,
    reviewBy: reviewByThen(inForce, reviews),
  };
}

/** Whom it was kept to then, person by person. */
const limitThen = ({ circle }: TeamRow): Named | null =>
  circle === null ? null : { ...nobodyNamed, memberIds: parseJson<string[]>(circle) };

/** What the last confirmation by then says; without one the review date of what was in force. */
function reviewByThen(inForce: Version | null, reviews: ReadonlyMap<string, KeptReview>): string | null {
  const last = reviews.get(inForce?.id ?? '');
  return (last ? last.nextBy : inForce?.fields.reviewBy) ?? null;
}

const isHigher = (one: VersionNumber, other: VersionNumber): boolean =>
  one.major > other.major || (one.major === other.major && one.minor > other.minor);

function required<T>(value: T | undefined): T {
  if (value === undefined) throw new Error('a version that was there then is told of');
  return value;
}

/** The seen version that a name means: a label, of the era present then where it names none, or an id. */
export function seenNamed(
  { document, seen }: Pick<PastDocument, 'document' | 'seen'>,
  name: ParsedLabel | { id: string },
): SeenThen | undefined {
  if ('id' in name) return seen.get(name.id);
  const { major } = name;
  const [era, minor] = [name.era ?? document.presentEra, name.minor ?? 0];
  return [...seen.values()].find((one) => one.era === era && one.major === major && one.minor === minor);
}
