import { type Named, refuse } from '@polychron/core';
import { memberId } from '../access/actor.ts';
import { Refused } from '../refused.ts';
import type { Tx } from '../store/database.ts';
import { groupsOfLibrary, peopleOfGroup } from '../store/groups.ts';
import type { Store } from '../store/store.ts';
import { idsOfAll } from './setMembers.ts';

/**
 * Members by account, and groups with a role in the library by name, with who that is now.
 * @throws Refused `account-unknown`, `group-unknown`
 */
export async function namedPeople(
  store: Store,
  libraryId: string,
  { people, groups }: { people: readonly string[]; groups: readonly string[] },
  tx: Tx,
): Promise<Named> {
  const personIds: string[] = [];
  for (const account of new Set(people)) personIds.push(await memberId(store, libraryId, account, tx));
  const byName = await idsOfAll(store, 'groups', [...new Set(groups)], tx);
  const here = await groupsOfLibrary(store, libraryId, tx);
  for (const [group, id] of byName) {
    if (here.has(id)) continue;
    const reason = `The group ${group} has no role in this library. Name one that has.`;
    throw new Refused(refuse('invalid', 'group-unknown', reason, { group }));
  }
  const groupIds = [...new Set(byName.values())];
  const members = await Promise.all(groupIds.map((id) => peopleOfGroup(store, id, tx)));
  return { personIds, groupIds, memberIds: [...new Set([...personIds, ...members.flat()])] };
}
