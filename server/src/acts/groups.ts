import { v7 as newId } from 'uuid';
import type * as contract from '@polychron/contract';
import { refuse } from '@polychron/core';
import { requireAdministrator } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { Refused } from '../refused.ts';
import { isDuplicate, transact, type Tx } from '../store/database.ts';
import {
  deleteGroup,
  isGroupNameTaken,
  keepGroup,
  librariesOfGroup,
  listGroups,
  lockGroup,
} from '../store/groups.ts';
import { appendLedger, ofSite } from '../store/ledger.ts';
import type { Store } from '../store/store.ts';
import { idsOfAll, refuseUnmanaged } from './setMembers.ts';
import { keepingWork } from './keepWork.ts';

const managing = 'People and groups are managed';
const nameTaken = (name: string): Refused => {
  const reason = `There is a group ${name} already. Choose another name.`;
  return new Refused(refuse('conflict', 'name-taken', reason, { name }));
};
const noGroup = (): Refused => new Refused(refuse('notFound', 'group-not-found', 'There is no such group.'));

/**
 * Makes a group, or changes the one present: its name and who is in it. Work that would be left to nobody
 * goes to `handOverTo`. @throws Refused `name-taken`,
 * `group-not-found`
 */
export async function performSaveGroup(
  asker: Asker,
  present: string | null,
  body: { name: string; people: string[] },
  handOverTo?: string,
): Promise<contract.Group> {
  const { context, caller } = asker;
  requireAdministrator(caller, managing);
  const { name } = body;
  const id = present ?? newId();
  const at = context.clock();
  const tell = await transact(context.db, async (tx) => {
    if (present !== null) await lockedName(context, present, tx);
    if (await isGroupNameTaken(context, { id, name }, tx)) throw nameTaken(name);
    const personIds = [...(await idsOfAll(context, 'people', body.people, tx)).values()];
    const libraryIds = await librariesOfGroup(context, id, tx);
    const make = (): Promise<void> =>
      keepGroup(context, { id, name, personIds, isNew: present === null }, at, tx);
    const told = await keepingWork(asker, { libraryIds, make, handOverTo }, tx);
    await refuseUnmanaged(context, libraryIds, tx);
    const act = present === null ? 'addGroup' : 'changeGroup';
    const facts = { group: name, people: [...body.people].sort() };
    await appendLedger(context, { ...ofSite, at, personId: caller.id, act, facts }, tx);
    return told;
  }).catch((error: unknown) => {
    // Another of the name came between looking and keeping.
    throw isDuplicate(error) ? nameTaken(name) : error;
  });
  tell();
  const { found } = await listGroups(context, { id }, { after: '', count: 1 });
  const [group] = found;
  if (!group) throw noGroup();
  return group;
}

/** Removes a group with the roles it held. @throws Refused `last-controller`, `group-not-found` */
export async function performRemoveGroup(asker: Asker, id: string, handOverTo?: string): Promise<void> {
  const { context, caller } = asker;
  requireAdministrator(caller, managing);
  const tell = await transact(context.db, async (tx) => {
    const group = await lockedName(context, id, tx);
    const libraryIds = await librariesOfGroup(context, id, tx);
    const at = context.clock();
    const make = (): Promise<void> => deleteGroup(context, id, at, tx);
    const told = await keepingWork(asker, { libraryIds, make, handOverTo }, tx);
    await refuseUnmanaged(context, libraryIds, tx);
    const entry = { ...ofSite, at, personId: caller.id };
    await appendLedger(context, { ...entry, act: 'removeGroup', facts: { group } }, tx);
    return told;
  });
  tell();
}

async function lockedName(store: Store, id: string, tx: Tx): Promise<string> {
  const name = await lockGroup(store, id, tx);
  if (name === null) throw noGroup();
  return name;
}
