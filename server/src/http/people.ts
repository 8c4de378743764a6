import { routes } from '@polychron/contract';
import type { Context } from '../context.ts';
import { listGroups, listPeople, removeGroup, saveGroup } from '../services/members.ts';
import { registerPerson } from '../services/sessions.ts';
import type { Door } from './bind.ts';

/** Accounts and groups. */
export function peopleRoutes(door: Door, context: Context): void {
  door.on(routes.listPeople, async ({ caller, query }) => listPeople(context, caller, query));
  door.on(routes.addPerson, async ({ caller, body }) => registerPerson(context, caller, body));
  door.on(routes.listGroups, async ({ caller }) => {
    const items = await listGroups(context, caller);
    return { items, next: null, total: items.length };
  });
  door.on(routes.addGroup, async ({ caller, body }) => saveGroup(context, caller, null, body));
  door.on(routes.changeGroup, async ({ caller, params, body }) => saveGroup(context, caller, params.id, body));
  door.on(routes.removeGroup, async ({ caller, params }) => removeGroup(context, caller, params.id));
}
