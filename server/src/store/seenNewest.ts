import type { Rulebook, State, Viewer } from '@polychron/core';
import { type Database, rows } from './database.ts';
import { type Group, groupsOf, ownGroupsOf } from './newest.ts';
import { everyKind, kindsInState, ofLimited, seenKinds, seesLimited } from './sight.ts';

/** Which documents of a library, for whom: those whose latest seen version is of one of some kinds. */
export interface Wanted {
  libraryId: string;
  viewerId: string;
  /** Kinds seen by role, kinds seen of the team's documents, and kinds among the person's own rows. */
  seen: { all: number; team: number; own: number };
  /** Kinds of the latest seen version that are asked for. */
  kinds: number;
}
/** Kinds of limited documents and of others. */
const ofEither = (kinds: number): number => (kinds | ofLimited(kinds)) >>> 0;

/**
 * What somebody sees of a library, where asked only documents whose latest version they see is in a state.
 */
export function wantedOf(
  libraryId: string,
  viewer: Viewer,
  rules: Rulebook,
  asked: { state?: State | undefined; within?: number | undefined } = {},
): Wanted {
  const { state, within } = asked;
  const kinds = ofEither(state ? kindsInState(state) : everyKind);
  const { all, team } = seenKinds(viewer, rules, within);
  const seen = seesLimited(viewer)
    ? { all: ofEither(all), team, own: team }
    : { all, team, own: (team | ofLimited(all)) >>> 0 };
  return { libraryId, viewerId: viewer.id, seen, kinds };
}

/** Whether the person has a newer version of their own team's than the row `n` says. */
const ownIsNewer = ({ seen }: Wanted): string =>
  `EXISTS (SELECT 1 FROM newest_versions o WHERE o.document_id = n.document_id AND o.person_id = :viewer
     AND (o.kind & ${seen.own}) <> 0 AND o.sequence > n.sequence)`;

const isLatestByRole = ({ seen }: Wanted): string =>
  `n.person_id = '' AND (n.kind & ${seen.all}) <> 0 AND (n.later & ${seen.all}) = 0`;

const isLatestOwn = ({ seen }: Wanted): string =>
  `n.person_id = :viewer AND (n.kind & ${seen.own}) <> 0 AND (n.later & ${seen.all}) = 0
   AND (n.later_own & ${seen.own}) = 0`;

/**
 * Rows `n` of `newest_versions` that are the latest versions somebody sees, one a document, with the
 * replacement `:viewer`; of the kinds asked for.
 */
export function latestSeen(wanted: Wanted): string {
  const byRole = `(${isLatestByRole(wanted)}${wanted.seen.own === 0 ? '' : ` AND NOT ${ownIsNewer(wanted)}`})`;
  const either = wanted.seen.own === 0 ? byRole : `(${byRole} OR (${isLatestOwn(wanted)}))`;
  return wanted.kinds === ofEither(everyKind) ? either : `(${either} AND (n.kind & ${wanted.kinds}) <> 0)`;
}

/** The groups in which a person's latest versions stand: each is one range of an index, in order. */
export async function latestGroups(db: Database, wanted: Wanted): Promise<Group[]> {
  const { libraryId, viewerId, seen, kinds } = wanted;
  const byRole = (await groupsOf(db, libraryId)).filter(
    ({ kind, later }) => (kind & seen.all) !== 0 && (later & seen.all) === 0,
  );
  const own = seen.own === 0 ? [] : await ownGroupsOf(db, libraryId, viewerId);
  const ownLatest = own.filter(
    ({ kind, later, laterOwn }) =>
      (kind & seen.own) !== 0 && (later & seen.all) === 0 && (laterOwn & seen.own) === 0,
  );
  return [...byRole, ...ownLatest].filter(({ kind }) => (kind & kinds) !== 0);
}

/**
 * A group as a condition over `n`; where the person may have newer versions of their own, without those
 * documents.
 */
export function inGroup(wanted: Wanted, { personId, kind, later, laterOwn }: Group): string {
  const place = `n.library_id = :libraryId AND n.person_id = ${personId === '' ? "''" : ':viewer'} AND n.kind = ${kind}
    AND n.later = ${later} AND n.later_own = ${laterOwn}`;
  const hidden = personId === '' && (later & wanted.seen.team) !== 0;
  return hidden ? `${place} AND NOT ${ownIsNewer(wanted)}` : place;
}

/**
 * How many documents somebody sees, exactly: the counts by kind, less those of which they see a newer
 * version as one of the team, and those besides. What is read grows with the person's own documents, not
 * with the library.
 */
export async function countSeen(db: Database, wanted: Wanted): Promise<number> {
  const { libraryId, viewerId, seen, kinds } = wanted;
  const groups = await latestGroups(db, wanted);
  const byRole = groups
    .filter(({ personId }) => personId === '')
    .reduce((sum, { documents }) => sum + documents, 0);
  if (seen.own === 0) return byRole;
  const [own] = await rows<{ latest: number; instead: number }>(
    db,
    `SELECT COALESCE(SUM((n.kind & ${kinds}) <> 0), 0) AS latest,
       COALESCE(SUM(EXISTS (SELECT 1 FROM newest_versions r WHERE r.document_id = n.document_id AND r.person_id = ''
         AND (r.kind & ${seen.all}) <> 0 AND (r.later & ${seen.all}) = 0 AND (r.kind & ${kinds}) <> 0)), 0) AS instead
     FROM newest_versions n WHERE n.library_id = :libraryId AND ${isLatestOwn(wanted)}`,
    { libraryId, viewer: viewerId },
  );
  return byRole + Number(own?.latest ?? 0) - Number(own?.instead ?? 0);
}
