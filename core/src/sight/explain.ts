import type { Role } from '../policy/roles.ts';
import type { Rulebook, SightStep } from '../policy/rulebook.ts';
import type { Standing, State } from '../versions/version.ts';

/** The kinds of version that sight tells apart: by standing where one stands, else by state. */
export const sightClasses = [
  'inForce', 'superseded', 'scheduled', 'withdrawn', 'draft', 'inApproval', 'approved', 'rejected',
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
}

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

const beyondReader: readonly Role[] = ['auditor', 'author', 'approver', 'controller'];
const stepRoles: Record<SightStep, readonly Role[]> = {
  members: ['reader', 'auditor', 'author', 'approver', 'controller'],
  authors: ['author', 'approver', 'controller'],
  approvers: ['approver', 'controller'],
  team: ['controller'],
};
const stepWords: Record<SightStep, string> = {
  members: 'every member',
  authors: 'authors and above',
  approvers: 'approvers and above',
  team: "the document's team and controllers",
};
const classWords: Record<SightClass, string> = {
  inForce: 'in force', superseded: 'superseded', scheduled: 'scheduled', withdrawn: 'withdrawn',
  draft: 'a draft', inApproval: 'in approval', approved: 'approved', rejected: 'rejected',
};
const stepOf = (kind: SightClass, rules: Rulebook): SightStep | null => {
  switch (kind) {
    case 'draft': return rules.sight.draft;
    case 'rejected': return rules.sight.rejected;
    case 'inApproval': case 'approved': return rules.sight.inApproval;
    default: return null;
  }
};

/**
 * How far the roles reach for each kind of version under the rules. The one source both for `explain` and for
 * the database's lists, so that no list shows what `explain` denies.
 */
export function reach(roles: ReadonlySet<Role>, rules: Rulebook): Record<SightClass, Reach> {
  const any = (list: readonly Role[]): boolean => list.some((role) => roles.has(role));
  const answer = {} as Record<SightClass, Reach>;
  for (const kind of sightClasses) {
    const step = stepOf(kind, rules);
    if (roles.size === 0) answer[kind] = 'none';
    else if (step) answer[kind] = any(stepRoles[step]) ? 'all' : 'team';
    else if (kind === 'inForce' || (kind === 'superseded' && rules.readersSeePast)) answer[kind] = 'all';
    else answer[kind] = any(beyondReader) ? 'all' : 'none';
  }
  return answer;
}

/** Whether the person belongs to the version's team: owner, co-authors, its author, the present holder. */
export function inTeam(personId: string, facts: SightFacts): boolean {
  return facts.ownerId === personId || facts.authorId === personId || facts.holderId === personId
    || facts.coAuthorIds.includes(personId);
}

/**
 * Whether a person sees a version, and why (docs/rules.md, Who sees what). Every list, count, search,
 * compare and link asks this.
 */
export function explain(viewer: Viewer, facts: SightFacts, rules: Rulebook, of: Speaking = 'you'): Explanation {
  const [are, role, belong] = of === 'you' ? ['You are', 'your role', 'you belong'] : [`${of.name} is`, `the role of ${of.name}`, `${of.name} belongs`];
  const kind = sightClass(facts);
  const extent = reach(viewer.roles, rules)[kind];
  const name = `${facts.label} is ${classWords[kind]}`;
  if (viewer.roles.size === 0) return { sees: false, why: `${are} not a member of this library.` };
  if (facts.thinned && !beyondReader.some((role) => viewer.roles.has(role))) {
    return { sees: false, why: `${facts.label} was thinned; its record is for auditors, authors and above.` };
  }
  const step = stepOf(kind, rules);
  if (step === null) {
    if (extent === 'all') {
      return { sees: true, why: kind === 'inForce' ? `${name}; every member sees it.` : `${name}; ${role} sees it.` };
    }
    return { sees: false, why: `${name}; readers see only what is in force.` };
  }
  const rule = `${classPlural[kind]} here are for ${stepWords[step]}`;
  if (extent === 'all') return { sees: true, why: `${name}; ${rule}.` };
  if (inTeam(viewer.id, facts)) return { sees: true, why: `${name}; ${rule}, and ${belong} to the document's team.` };
  return { sees: false, why: `${name}; ${rule}.` };
}

const classPlural: Record<SightClass, string> = {
  inForce: 'versions in force', superseded: 'superseded versions', scheduled: 'scheduled versions',
  withdrawn: 'withdrawn versions', draft: 'drafts', inApproval: 'versions in approval',
  approved: 'approved versions', rejected: 'rejected versions',
};
