import { refuse, refuseByRole, type Role, roles } from '@polychron/core';
import { Refused } from '../refused.ts';
import type { Tx } from '../store/database.ts';
import { type InLibrary, rolesIn } from '../store/members.ts';
import { findPerson } from '../store/people.ts';
import type { Store } from '../store/store.ts';
import type { Caller, LibraryActor } from './caller.ts';

/**
 * The caller with the roles they hold in a library; for a controller who looks as somebody else, that person
 * or role.
 * @throws Refused `role-missing` where the caller may not look so, `account-unknown` where there is no such
 * member or role
 */
export async function actorIn(
  store: Store,
  caller: Caller,
  library: InLibrary,
  tx?: Tx,
): Promise<LibraryActor> {
  const held = (await rolesIn(store, library, caller.id, tx)).get(caller.id) ?? new Set<Role>();
  const self = { id: caller.id, name: caller.name, roles: held };
  const { as } = caller;
  if (as === undefined || held.size === 0) return self;
  const refusal = refuseByRole(self, 'seeAs', 'Seeing a library as somebody else');
  if (refusal) throw new Refused(refusal);
  const role = roles.find((one) => as === `role:${one}`);
  if (role) return { id: `role ${role}`, name: `a ${role}`, roles: new Set([role]), lookingAs: as };
  const person = await findPerson(store, as, tx);
  const theirs = person && (await rolesIn(store, library, person.id, tx)).get(person.id);
  if (person && theirs) return { id: person.id, name: person.name, roles: theirs, lookingAs: as };
  const named = as.slice(0, 60);
  const reason = `${named} is no member of this library. Name an account, or a role as role:reader.`;
  throw new Refused(refuse('invalid', 'account-unknown', reason, { as: named }));
}

/** The id of a member of a library by account. @throws Refused `account-unknown` */
export async function memberId(store: Store, libraryId: string, account: string, tx: Tx): Promise<string> {
  const person = await findPerson(store, account, tx);
  const held = person && (await rolesIn(store, libraryId, person.id, tx)).get(person.id);
  if (person && held) return person.id;
  const reason = `${account} is no member of this library.`;
  throw new Refused(refuse('invalid', 'account-unknown', reason, { account }));
}
