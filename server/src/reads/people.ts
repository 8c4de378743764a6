import type * as contract from '@polychron/contract';
import { refuse } from '@polychron/core';
import { validate as isId } from 'uuid';
import type { Asker } from '../access/caller.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { type Page, partOf, readCursor, writeCursor } from '../store/cursors.ts';
import { listGroups } from '../store/groups.ts';
import { mayAnywhere } from '../store/members.ts';
import type { PersonRow } from '../store/models.ts';
import { findPerson, listPeople, personById } from '../store/people.ts';

/** @throws Refused `role-missing` for whoever neither administers the system nor manages a library */
async function requireInsider({ context, caller }: Asker): Promise<void> {
  if (caller.systemAdministrator || (await mayAnywhere(context, caller.id, 'seePeople'))) return;
  const reason = 'Accounts and groups are listed for system administrators and controllers.';
  throw new Refused(refuse('forbidden', 'role-missing', reason, { needs: 'controllers' }));
}

/** Accounts, by account. */
export async function readPeople(
  asker: Asker,
  query: Page & { q?: string | undefined; open?: boolean | undefined },
): Promise<{ items: contract.PersonView[]; next: string | null; total: number }> {
  await requireInsider(asker);
  const { q = '', limit, open = false } = query;
  const [after = ''] = readCursor(query.cursor, 1) ?? [];
  const { found, total } = await listPeople(asker.context, { text: q, open }, { after, count: limit + 1 });
  const { shown, next } = partOf(found, limit, ({ account }) => writeCursor([account]));
  return { items: shown, next, total };
}

const noPerson = (): Refused =>
  new Refused(refuse('notFound', 'person-not-found', 'There is no such account.'));

/** A person by id or account. @throws Refused `person-not-found` */
export async function requirePerson(context: Context, name: string): Promise<PersonRow> {
  const found = (isId(name) && (await personById(context, name))) || (await findPerson(context, name));
  if (!found) throw noPerson();
  return found;
}

/** One account, as accounts are listed. @throws Refused `person-not-found` */
export async function personViewOf(context: Context, id: string): Promise<contract.PersonView> {
  const { found } = await listPeople(context, { id }, { after: '', count: 1 });
  const [view] = found;
  if (!view) throw noPerson();
  return view;
}

/** Groups by name, with their people and the libraries they have roles in. */
export async function readGroups(
  asker: Asker,
  query: Page & { q?: string | undefined },
): Promise<{ items: contract.Group[]; next: string | null; total: number }> {
  await requireInsider(asker);
  const { q = '', limit } = query;
  const [after = ''] = readCursor(query.cursor, 1) ?? [];
  const { found, total } = await listGroups(asker.context, { text: q }, { after, count: limit + 1 });
  const { shown, next } = partOf(found, limit, ({ name }) => writeCursor([name]));
  return { items: shown, next, total };
}
