import type * as contract from '@polychron/contract';
import { refuse } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { Refused } from '../refused.ts';
import { type Page, partOf, readCursor, writeCursor } from '../store/cursors.ts';
import { listGroups } from '../store/groups.ts';
import { mayAnywhere } from '../store/members.ts';
import { listPeople } from '../store/people.ts';

/** @throws Refused `role-missing` for whoever neither administers the system nor manages a library */
async function requireInsider({ context, caller }: Asker): Promise<void> {
  if (caller.systemAdministrator || (await mayAnywhere(context, caller.id, 'seePeople'))) return;
  const reason = 'Accounts and groups are listed for system administrators and controllers.';
  throw new Refused(refuse('forbidden', 'role-missing', reason, { needs: 'controllers' }));
}

/** Accounts, by account. */
export async function readPeople(
  asker: Asker,
  query: Page & { q?: string | undefined },
): Promise<{ items: contract.PersonView[]; next: string | null; total: number }> {
  await requireInsider(asker);
  const { q = '', limit } = query;
  const [after = ''] = readCursor(query.cursor, 1) ?? [];
  const { found, total } = await listPeople(asker.context, { text: q, after, count: limit + 1 });
  const { shown, next } = partOf(found, limit, ({ account }) => writeCursor([account]));
  return { items: shown, next, total };
}

/** Groups with their people and the libraries they have roles in. */
export async function readGroups(asker: Asker): Promise<contract.Group[]> {
  await requireInsider(asker);
  return listGroups(asker.context);
}
