/** Everyone at Orrin Vale Ropeway who signs in to the demo; all invented. */
export const password = 'orrin-vale';

export const people = [
  { account: 'controller', name: 'M. Oduya', roles: ['controller'] },
  { account: 'author', name: 'T. Brandvold', roles: ['author'] },
  { account: 'author2', name: 'J. Sandoval', roles: ['author'] },
  { account: 'approver', name: 'L. Achterberg', roles: ['approver'] },
  { account: 'approver2', name: 'A. Kilbride', roles: ['approver'] },
  { account: 'reader', name: 'P. Lindqvist', roles: ['reader'] },
  { account: 'auditor', name: 'R. Vasquez', roles: ['auditor'] },
  { account: 'admin', name: 'S. Whitlock', roles: [] },
] as const;

export type Account = (typeof people)[number]['account'];
