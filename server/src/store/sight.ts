import {
  may,
  reach,
  type Rulebook,
  sightClass,
  sightClasses,
  type SightClass,
  type State,
  type Version,
  type Viewer,
} from '@polychron/core';

/**
 * The kinds of version that sight tells apart, a bit each, so that a set of them is one number. Thinned ones
 * are kinds of their own, eight bits up. The same numbers stand in `versions.kind`, which the database
 * computes from state, standing and thinning.
 */
const kindBits: Record<SightClass, number> = {
  inForce: 1,
  superseded: 2,
  scheduled: 4,
  withdrawn: 8,
  draft: 16,
  inApproval: 32,
  approved: 64,
  rejected: 128,
};
const thinnedShift = 8;

/** The kind of a version, as `versions.kind` has it. */
export const kindOf = (version: Pick<Version, 'state' | 'standing' | 'thinned'>): number =>
  kindBits[sightClass(version)] << (version.thinned ? thinnedShift : 0);

/** A kind with its thinned ones. */
const withThinned = (kinds: number): number => kinds | (kinds << thinnedShift);

/** Kinds of versions, thinned ones too. */
export const kindsOf = (classes: readonly SightClass[]): number =>
  withThinned(classes.reduce((sum, kind) => sum | kindBits[kind], 0));

/** Kinds of all versions. */
export const everyKind = kindsOf(sightClasses);

/** Kinds of the versions in a state. */
export const kindsInState = (state: State): number =>
  kindsOf(state === 'published' ? ['inForce', 'superseded', 'scheduled'] : [state]);

/** Kinds that some see of their own team's documents only. */
export const teamKinds = kindsOf(['draft', 'inApproval', 'approved', 'rejected']);

/** Which kinds a person sees: of every document, and besides of those of their team. */
export interface SeenKinds {
  all: number;
  team: number;
}

/** Kinds of what is in force and nothing else. */
export const inForceKinds = kindsOf(['inForce']);

/**
 * Which kinds somebody sees, of those asked for; made from the same `reach` as `explain`, and a test holds
 * the two together.
 */
export function seenKinds(
  viewer: Pick<Viewer, 'roles'>,
  rules: Rulebook,
  within: number = everyKind,
): SeenKinds {
  const extents = reach(viewer.roles, rules);
  const reaching = (extent: 'all' | 'team'): number =>
    sightClasses.reduce((sum, kind) => (extents[kind] === extent ? sum | kindBits[kind] : sum), 0);
  // Where past versions are not for the person, neither are the records of thinned ones.
  const told = extents.withdrawn === 'all' ? withThinned : (kinds: number) => kinds;
  return { all: told(reaching('all')) & within, team: told(reaching('team')) & within };
}

/** Kinds as they are of limited documents: sixteen bits up. */
export const ofLimited = (kinds: number): number => (kinds << limitedShift) >>> 0;
const limitedShift = 16;

/** Whether somebody sees documents that are kept to others. */
export const seesLimited = ({ roles }: Pick<Viewer, 'roles'>): boolean => may(roles, 'seeLimited');

/** Whether somebody sees versions of every kind, whoever made them, of every document. */
export const seesEveryKind = (viewer: Pick<Viewer, 'roles'>, rules: Rulebook): boolean =>
  seesLimited(viewer) && seenKinds(viewer, rules).all === everyKind;

/** Whether a person belongs to a document's team whoever wrote its versions, over `d` and `c`. */
export const namedInTeam =
  "(d.owner_id = :viewer OR COALESCE(c.holder_id = :viewer, FALSE) OR d.co_author_ids LIKE CONCAT('%\"', :viewer, '\"%'))";
/** The person's team, over documents `d`, versions `v` and check-outs `c`. */
const team = `(v.author_id = :viewer OR ${namedInTeam})`;

/** The kinds of a set, each for itself. */
export const kindsIn = (set: number): number[] =>
  Array.from({ length: 2 * thinnedShift }, (_, place) => 1 << place).filter((kind) => (set & kind) !== 0);

/** Whether a document `d` is there for the person `:viewer`, where it is kept to some. */
export const isInCircle =
  '(NOT d.limited OR EXISTS (SELECT 1 FROM circles k WHERE k.document_id = d.id AND k.person_id = :viewer))';

/** Whether a document `d` stands. */
export const isNotVoided = 'd.voided_at IS NULL';

/** Whether a document `d` is there for somebody: kept to them too, and not void unless they see such. */
export function isThereFor(viewer: Pick<Viewer, 'roles'>): string {
  const parts = [
    ...(seesLimited(viewer) ? [] : [isInCircle]),
    ...(may(viewer.roles, 'seeVoided') ? [] : [isNotVoided]),
  ];
  return parts.length === 0 ? 'TRUE' : `(${parts.join(' AND ')})`;
}

/**
 * The versions a person sees, of kinds asked for, as a condition over `v`, `d` and `c` with the replacement
 * `:viewer`; not those of voided documents.
 */
export const sightCondition = (viewer: Viewer, rules: Rulebook, within?: number): string =>
  `(${sightWithVoided(viewer, rules, within)} AND ${isNotVoided})`;

/** The same with those of voided documents for whoever sees such: where these, or one document, are meant. */
export function sightWithVoided(viewer: Viewer, rules: Rulebook, within?: number): string {
  const kinds = seenKinds(viewer, rules, within);
  const parts = [
    ...(kinds.all === 0 ? [] : [`v.kind IN (${kindsIn(kinds.all).join()})`]),
    ...(kinds.team === 0 ? [] : [`(v.kind IN (${kindsIn(kinds.team).join()}) AND ${team})`]),
  ];
  if (parts.length === 0) return 'FALSE';
  return `((${parts.join(' OR ')}) AND ${isThereFor(viewer)})`;
}

/**
 * The same of one document's versions `v`, as ranges of the index by kind and author: it is known whether the
 * person is named in the document's team, and that the document is there for them.
 */
export function sightInOne(viewer: Viewer, rules: Rulebook, named: boolean): string {
  const { all, team: ofTeam } = seenKinds(viewer, rules);
  const whole = named ? all | ofTeam : all;
  const own = named ? 0 : ofTeam;
  const parts = [
    ...(whole === 0 ? [] : [`v.kind IN (${kindsIn(whole).join()})`]),
    ...(own === 0 ? [] : [`(v.kind IN (${kindsIn(own).join()}) AND v.author_id = :viewer)`]),
  ];
  return parts.length === 0 ? 'FALSE' : `(${parts.join(' OR ')})`;
}
