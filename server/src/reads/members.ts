import type * as contract from '@polychron/contract';
import { accessLibrary } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { entityTag } from '../access/preconditions.ts';
import { membersOf } from '../store/members.ts';

/** Members with their roles: people by account, then groups by name; with their entity tag. */
export async function readMembers(
  asker: Asker,
  libraryId: string,
): Promise<{ members: contract.MemberView[]; tag: string }> {
  await accessLibrary(asker, libraryId, { administrators: true });
  const members = await membersOf(asker.context, libraryId);
  return { members, tag: entityTag(members) };
}
