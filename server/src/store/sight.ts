import {
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

/** Which kinds somebody sees; made from the same `reach` as `explain`, and a test holds the two together. */
export function seenKinds(viewer: Pick<Viewer, 'roles'>, rules: Rulebook): SeenKinds {
  const extents = reach(viewer.roles, rules);
  const reaching = (extent: 'all' | 'team'): number =>
    sightClasses.reduce((sum, kind) => (extents[kind] === extent ? sum | kindBits[kind] : sum), 0);
  // Where past versions are not for the person, neither are the records of thinned ones.
  const told = extents.withdrawn === 'all' ? withThinned : (kinds: number) => kinds;
  return { all: told(reaching('all')), team: told(reaching('team')) };
}

/** Whether somebody sees versions of every kind, whoever made them. */
export const seesEveryKind = (viewer: Pick<Viewer, 'roles'>, rules: Rulebook): boolean =>
  seenKinds(viewer, rules).all === everyKind;
const everyKind = kindsOf(sightClasses);

/** Whether a person belongs to a document's team whoever wrote its versions, over `d` and `c`. */
export const namedInTeam =
  "(d.owner_id = :viewer OR COALESCE(c.holder_id = :viewer, FALSE) OR d.co_author_ids LIKE CONCAT('%\"', :viewer, '\"%'))";
/** The person's team, over documents `d`, versions `v` and check-outs `c`. */
const team = `(v.author_id = :viewer OR ${namedInTeam})`;

/** The kinds of a set, each for itself. */
export const kindsIn = (set: number): number[] =>
  Array.from({ length: 2 * thinnedShift }, (_, place) => 1 << place).filter((kind) => (set & kind) !== 0);

/** The versions a person sees, as a condition over `v`, `d` and `c` with the replacement `:viewer`. */
export function sightCondition(viewer: Viewer, rules: Rulebook): string {
  const kinds = seenKinds(viewer, rules);
  const parts = [
    ...(kinds.all === 0 ? [] : [`v.kind IN (${kindsIn(kinds.all).join()})`]),
    ...(kinds.team === 0 ? [] : [`(v.kind IN (${kindsIn(kinds.team).join()}) AND ${team})`]),
  ];
  return parts.length === 0 ? 'FALSE' : `(${parts.join(' OR ')})`;
}

/**
 * The same of one document's versions `v`, as ranges of the index by kind and author: it is known whether the
 * person is named in the document's team.
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
