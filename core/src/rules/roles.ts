import { refuse, type Refusal } from '../document/refusal.ts';

/** Roles a person holds in a library; rights are the union. */
export const roles = ['reader', 'auditor', 'author', 'approver', 'controller'] as const;
export type Role = (typeof roles)[number];

/** Somebody acting in a library. */
export interface Actor {
  id: string;
  name: string;
  roles: ReadonlySet<Role>;
}

/**
 * Acts in a library, and the roles that may do them. Approvers decide and auditors look; neither changes
 * content. Nobody else asks for a role by its name: queries and screens are made from these answers.
 */
const allowed = {
  create: ['author', 'controller'],
  checkOut: ['author', 'controller'],
  checkIn: ['author', 'controller'],
  lift: ['controller'],
  changeFields: ['author', 'controller'],
  restore: ['author', 'controller'],
  publish: ['author', 'controller'],
  withdraw: ['controller'],
  reinstate: ['controller'],
  review: ['author', 'controller'],
  reviewOthers: ['controller'],
  markTemplate: ['controller'],
  submit: ['author', 'controller'],
  decide: ['approver', 'controller'],
  callBackOthers: ['controller'],
  decideInPlace: ['controller'],
  replaceApprover: ['controller'],
  thin: ['author', 'controller'],
  thinOthers: ['controller'],
  recover: ['controller'],
  shelter: ['controller'],
  changeRules: ['controller'],
  seeEveryVersion: ['controller'],
  seeLimited: ['controller'],
  limit: ['controller'],
  void: ['controller'],
  seeVoided: ['auditor', 'controller'],
  distributeOthers: ['controller'],
  seeReaders: ['auditor', 'controller'],
  seePast: ['auditor', 'author', 'approver', 'controller'],
  seePace: ['auditor', 'author', 'approver', 'controller'],
  seeAs: ['controller'],
  seePeople: ['controller'],
  hearOfOverdue: ['controller'],
  manageMembers: ['controller'],
  changeLibrary: ['controller'],
} as const satisfies Record<string, readonly Role[]>;

export type Act = keyof typeof allowed;

/** The roles that allow an act, in the order of `roles`. */
export const rolesThatMay = (act: Act): readonly Role[] => allowed[act];

/** Whether the roles allow the act. */
export function may(held: ReadonlySet<Role>, act: Act): boolean {
  return rolesThatMay(act).some((role) => held.has(role));
}

/** Roles in words, for a sentence: "authors and controllers"; `more` follows the roles. */
export function rolesInWords(held: readonly Role[], ...more: readonly string[]): string {
  const names = [...held.map((role) => `${role}s`), ...more];
  if (names.length < 2) return names.join('');
  return `${names.slice(0, -1).join(', ')} and ${names.slice(-1).join('')}`;
}

/** The roles that allow the act, for a refusal's sentence: "authors and controllers". */
export function rolesFor(act: Act): string {
  return rolesInWords(rolesThatMay(act));
}

/**
 * Refuses an act the actor's roles do not allow (`role-missing`), `doing` opening the sentence; null when
 * they do.
 */
export function refuseByRole(actor: Pick<Actor, 'roles'>, act: Act, doing: string): Refusal | null {
  if (may(actor.roles, act)) return null;
  const needs = rolesFor(act);
  return refuse('forbidden', 'role-missing', `${doing} is for ${needs} of this library.`, { needs });
}
