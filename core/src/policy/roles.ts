/** Roles a person holds in a library; rights are the union. */
export const roles = ['reader', 'auditor', 'author', 'approver', 'controller'] as const;
export type Role = (typeof roles)[number];

/** Somebody acting in a library. */
export interface Actor {
  id: string;
  name: string;
  roles: ReadonlySet<Role>;
}

/** Acts on a document, and the roles that may do them. Approvers decide and auditors look; neither changes content. */
const allowed = {
  create: ['author', 'controller'],
  checkOut: ['author', 'controller'],
  checkIn: ['author', 'controller'],
  lift: ['controller'],
  changeFields: ['author', 'controller'],
  restore: ['author', 'controller'],
  publish: ['author', 'controller'],
  submit: ['author', 'controller'],
  decide: ['approver', 'controller'],
  thin: ['author', 'controller'],
  recover: ['controller'],
  shelter: ['controller'],
  changeRules: ['controller'],
  seeAs: ['controller'],
  manageMembers: ['controller'],
  changeLibrary: ['controller'],
} as const satisfies Record<string, readonly Role[]>;

export type Act = keyof typeof allowed;

/** Whether the roles allow the act. */
export function may(held: ReadonlySet<Role>, act: Act): boolean {
  return allowed[act].some((role) => held.has(role));
}

/** The roles that allow the act, for a refusal's sentence: "authors and controllers". */
export function rolesFor(act: Act): string {
  return allowed[act].map((role) => `${role}s`).join(' and ');
}
