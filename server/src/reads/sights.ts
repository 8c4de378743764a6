import type { Role } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import type { LibrarySight } from '../store/approvalLists.ts';
import { librariesOf } from '../store/members.ts';
import { statesOf } from '../store/rules.ts';

/** How the caller sees each library they are a member of, by the libraries' names. */
export async function sightsOf({ context, caller }: Asker): Promise<LibrarySight[]> {
  const roles = await librariesOf(context, caller.id);
  const states = await statesOf(context, [...roles.keys()]);
  return [...states]
    .sort(([, a], [, b]) => a.library.name.localeCompare(b.library.name, 'en'))
    .map(([libraryId, { rules }]) => ({
      libraryId,
      rules,
      actor: { id: caller.id, name: caller.name, roles: roles.get(libraryId) ?? new Set<Role>() },
    }));
}
