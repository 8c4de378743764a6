import type { Standing, State } from '../document/version.ts';
import { may, type Role, roles, rolesFor, rolesInWords } from './roles.ts';
import type { Rulebook } from './rulebook.ts';

/** The kinds of version that sight tells apart: by standing where one stands, else by state. */
export const sightClasses = [
  'inForce',
  'superseded',
  'scheduled',
  'withdrawn',
  'draft',
  'inApproval',
  'approved',
  'rejected',
] as const;
export type SightClass = (typeof sightClasses)[number];

/** How far a person's roles reach for one kind of version: every one, those of their own team, or none. */
export type Reach = 'all' | 'team' | 'none';

/** What `explain` needs to know of a version and its document. */
export interface SightFacts {
  label: string;
  state: State;
  standing: Standing | null;
  thinned: boolean;
  authorId: string;
  ownerId: string;
  coAuthorIds: readonly string[];
  holderId: string | null;
  /** Whom the document is kept to; null: to nobody in particular. */
  circle: readonly string[] | null;
  /** Whether the document was voided. */
  voided: boolean;
}

/** Somebody who looks, with the roles they hold in the library. */
export interface Viewer {
  id: string;
  roles: ReadonlySet<Role>;
}

/** Of whom a reason speaks: of the person who reads it, or of somebody else by name. */
export type Speaking = 'you' | { name: string };

/** Yes or no, and why, in one sentence for a person. */
export interface Explanation {
  sees: boolean;
  why: string;
}

/** Which kind of version this is for sight. */
export function sightClass(version: Pick<SightFacts, 'state' | 'standing'>): SightClass {
  if (version.state === 'published') return version.standing ?? 'superseded';
  return version.state;
}

const classWords: Record<SightClass, { one: string; many: string }> = {
  inForce: { one: 'in force', many: 'versions in force' },
  superseded: { one: 'superseded', many: 'superseded versions' },
  scheduled: { one: 'scheduled', many: 'scheduled versions' },
  withdrawn: { one: 'withdrawn', many: 'withdrawn versions' },
  draft: { one: 'a draft', many: 'drafts' },
  inApproval: { one: 'in approval', many: 'versions in approval' },
  approved: { one: 'approved', many: 'approved versions' },
  rejected: { one: 'rejected', many: 'rejected versions' },
};

/** The roles the Rulebook lets see a kind of unpublished version; null for kinds it says nothing of. */
function namedRoles(kind: SightClass, rules: Pick<Rulebook, 'sight'>): readonly Role[] | null {
  switch (kind) {
    case 'draft':
      return rules.sight.draft;
    case 'rejected':
      return rules.sight.rejected;
    case 'inApproval':
    case 'approved':
      return rules.sight.inApproval;
    default:
      return null;
  }
}

/** Whether a set of roles takes in everybody who can be a member. */
const isEverybody = (named: readonly Role[]): boolean =>
  roles.every((role) => named.includes(role) || may(new Set([role]), 'seeEveryVersion'));

/** Who sees a kind of version where these roles are named: "authors, the document's team and controllers". */
export function viewersInWords(named: readonly Role[]): string {
  if (isEverybody(named)) return 'every member';
  return rolesInWords(
    roles.filter((role) => named.includes(role)),
    "the document's team",
    'controllers',
  );
}

/**
 * How far the roles reach for each kind of version under the rules. The one source both for `explain` and for
 * the database's lists, so that no list shows what `explain` denies.
 */
export function reach(
  held: ReadonlySet<Role>,
  rules: Pick<Rulebook, 'sight' | 'readersSeePast'>,
): Record<SightClass, Reach> {
  return Object.fromEntries(sightClasses.map((kind) => [kind, reachFor(kind, held, rules)])) as Record<
    SightClass,
    Reach
  >;
}

function reachFor(
  kind: SightClass,
  held: ReadonlySet<Role>,
  rules: Pick<Rulebook, 'sight' | 'readersSeePast'>,
): Reach {
  if (held.size === 0) return 'none';
  const named = namedRoles(kind, rules);
  if (named) {
    return may(held, 'seeEveryVersion') || named.some((role) => held.has(role)) ? 'all' : 'team';
  }
  if (kind === 'inForce' || (kind === 'superseded' && rules.readersSeePast)) return 'all';
  return may(held, 'seePast') ? 'all' : 'none';
}

/** Whether the person belongs to the version's team: owner, co-authors, its author, the present holder. */
export function inTeam(personId: string, facts: SightFacts): boolean {
  const { ownerId, authorId, holderId, coAuthorIds } = facts;
  return [ownerId, authorId, holderId, ...coAuthorIds].includes(personId);
}

/** Whether the person is kept from a version because it was thinned. */
const isThinnedPast = (viewer: Viewer, { thinned }: SightFacts): boolean =>
  thinned && !may(viewer.roles, 'seePast');

/** Whether the person is kept from a document that is limited to others. */
const isOutside = ({ id, roles: held }: Viewer, { circle }: Pick<SightFacts, 'circle'>): boolean =>
  circle !== null && !circle.includes(id) && !may(held, 'seeLimited');

/** Whether the person is kept from a document because it was voided. */
const isVoidedFor = ({ roles: held }: Viewer, { voided }: Pick<SightFacts, 'voided'>): boolean =>
  voided && !may(held, 'seeVoided');

/** Whether a person sees a version: what `explain` says, without its words. */
export function maySee(
  viewer: Viewer,
  facts: SightFacts,
  rules: Pick<Rulebook, 'sight' | 'readersSeePast'>,
): boolean {
  if (isOutside(viewer, facts) || isVoidedFor(viewer, facts) || isThinnedPast(viewer, facts)) return false;
  const reached = reachFor(sightClass(facts), viewer.roles, rules);
  return reached === 'all' || (reached === 'team' && inTeam(viewer.id, facts));
}

const outside = (of: Speaking): string =>
  of === 'you' ? 'you are not among them' : `${of.name} is not among them`;

/**
 * Whether a person sees a version, and why (docs/rules.md, Who sees what). Every list, count, search,
 * compare and link asks this.
 */
export function explain(
  viewer: Viewer,
  facts: SightFacts,
  rules: Pick<Rulebook, 'sight' | 'readersSeePast'>,
  of: Speaking = 'you',
): Explanation {
  const words =
    of === 'you'
      ? { are: 'You are', role: 'your role', belong: 'you belong' }
      : { are: `${of.name} is`, role: `the role of ${of.name}`, belong: `${of.name} belongs` };
  if (viewer.roles.size === 0) return { sees: false, why: `${words.are} not a member of this library.` };
  if (isOutside(viewer, facts)) {
    return { sees: false, why: `The document is kept to named people and groups, and ${outside(of)}.` };
  }
  if (isVoidedFor(viewer, facts)) {
    return { sees: false, why: `The document was voided; its record is for ${rolesFor('seeVoided')}.` };
  }
  if (isThinnedPast(viewer, facts)) {
    return { sees: false, why: `${facts.label} was thinned; its record is for ${rolesFor('seePast')}.` };
  }
  const kind = sightClass(facts);
  const seesAll = reachFor(kind, viewer.roles, rules) === 'all';
  const name = `${facts.label} is ${classWords[kind].one}`;
  const named = namedRoles(kind, rules);
  if (named === null) {
    if (!seesAll) return { sees: false, why: `${name}; readers see only what is in force.` };
    if (kind !== 'inForce') return { sees: true, why: `${name}; ${words.role} sees it.` };
    const whose = facts.circle
      ? `those it is kept to and ${rolesFor('seeLimited')} see`
      : 'every member sees';
    return { sees: true, why: `${name}; ${whose} it.` };
  }
  const rule = `${classWords[kind].many} here are seen by ${viewersInWords(named)}`;
  if (!seesAll && inTeam(viewer.id, facts)) {
    return { sees: true, why: `${name}; ${rule}, and ${words.belong} to the document's team.` };
  }
  return { sees: seesAll, why: `${name}; ${rule}.` };
}
