import type * as contract from '@polychron/contract';
import { refuse, type Role } from '@polychron/core';
import { accessLibrary, requireRole } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { entityTag, refuseStale } from '../access/preconditions.ts';
import { Refused } from '../refused.ts';
import { transact, type Tx } from '../store/database.ts';
import { idsByName } from '../store/groups.ts';
import { appendLedger } from '../store/ledger.ts';
import { libraryWithoutManager, membersOf, replaceMembers } from '../store/members.ts';
import type { Store } from '../store/store.ts';
import { keepingWork } from './keepWork.ts';

/**
 * Replaces a library's members, people and groups. At least one person is a controller, by themselves or
 * through a group. Work that would be left to nobody goes to `handOverTo`.
 */
export async function performSetMembers(
  asker: Asker,
  libraryId: string,
  wanted: readonly contract.Member[],
  handOverTo?: string,
): Promise<contract.MemberView[]> {
  const { context, caller, ifMatch } = asker;
  const kept = await transact(context.db, async (tx) => {
    const { actor } = await accessLibrary(asker, libraryId, { administrators: true, tx });
    if (!caller.systemAdministrator) requireRole(actor, 'manageMembers', 'Choosing members');
    const before = await membersOf(context, libraryId, tx);
    refuseStale(ifMatch, entityTag(before), { now: `${before.length} members` });
    const at = context.clock();
    const held = await heldBy(context, wanted, tx);
    const make = (): Promise<void> => replaceMembers(context, libraryId, held, { at, tx });
    const tell = await keepingWork(asker, { libraryIds: [libraryId], make, handOverTo }, tx);
    await refuseUnmanaged(context, [libraryId], tx);
    const of = { at, personId: caller.id, libraryId, documentId: null };
    const facts = { members: wanted.map(memberInWords).sort() };
    await appendLedger(context, { ...of, act: 'setMembers', facts }, tx);
    return { members: await membersOf(context, libraryId, tx), tell };
  });
  kept.tell();
  return kept.members;
}

/** The roles of the members named, by id; of one named twice the union. */
async function heldBy(store: Store, wanted: readonly contract.Member[], tx: Tx) {
  const accounts = wanted.flatMap((member) => ('account' in member ? [member.account] : []));
  const names = wanted.flatMap((member) => ('group' in member ? [member.group] : []));
  const known = {
    people: await idsOfAll(store, 'people', accounts, tx),
    groups: await idsOfAll(store, 'groups', names, tx),
  };
  const held = { people: new Map<string, Set<Role>>(), groups: new Map<string, Set<Role>>() };
  for (const member of wanted) {
    const kind = 'account' in member ? 'people' : 'groups';
    const id = known[kind].get('account' in member ? member.account : member.group);
    if (id === undefined) continue;
    held[kind].set(id, new Set([...(held[kind].get(id) ?? []), ...member.roles]));
  }
  return held;
}

/**
 * Ids by account or name. @throws Refused `account-unknown` or `group-unknown`, naming the first there is
 * none of
 */
export async function idsOfAll(
  store: Store,
  kind: 'people' | 'groups',
  names: readonly string[],
  tx: Tx,
): Promise<Map<string, string>> {
  const ids = await idsByName(store, kind, names, tx);
  const unknown = names.find((name) => !ids.has(name));
  if (unknown === undefined) return ids;
  throw new Refused(
    kind === 'people'
      ? refuse('invalid', 'account-unknown', `There is no account ${unknown}.`, { account: unknown })
      : refuse('invalid', 'group-unknown', `There is no group ${unknown}.`, { group: unknown }),
  );
}

/**
 * Refuses what leaves a library that has members without anybody who manages it. @throws Refused
 * `last-controller`
 */
export async function refuseUnmanaged(store: Store, libraryIds: readonly string[], tx: Tx): Promise<void> {
  const library = await libraryWithoutManager(store, libraryIds, { tx });
  if (library === undefined) return;
  const reason = `${library} would have no controller. A library needs at least one; keep one, or name another first.`;
  throw new Refused(refuse('invalid', 'last-controller', reason, { library }));
}

function memberInWords(member: contract.Member): string {
  const name = 'account' in member ? member.account : `group ${member.group}`;
  return `${name}: ${[...new Set(member.roles)].sort().join(' ')}`;
}
