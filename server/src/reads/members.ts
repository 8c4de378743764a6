import type * as contract from '@polychron/contract';
import { accessLibrary } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { entityTag } from '../access/preconditions.ts';
import { partOf, readCursor, writeCursor } from '../store/cursors.ts';
import { membersOf, peopleIn } from '../store/members.ts';

/** Members with their roles: people by account, then groups by name; with their entity tag. */
export async function readMembers(
  asker: Asker,
  libraryId: string,
): Promise<{ members: contract.MemberView[]; tag: string }> {
  await accessLibrary(asker, libraryId, { administrators: true });
  const members = await membersOf(asker.context, libraryId);
  return { members, tag: entityTag(members) };
}

/** People with a role in a library, their own or a group's, by name. */
export async function readLibraryPeople(
  asker: Asker,
  libraryId: string,
  { q = '', role, limit, cursor }: contract.LibraryPeopleQuery,
): Promise<contract.LibraryPeople> {
  await accessLibrary(asker, libraryId, { administrators: true });
  const after = readCursor(cursor, 2) ?? [];
  const { found, total } = await peopleIn(
    asker.context,
    libraryId,
    { text: q, role: role ?? null },
    { after, count: limit + 1 },
  );
  const { shown, next } = partOf(found, limit, ({ name, account }) => writeCursor([name, account]));
  return { items: shown, next, total };
}
