import { routes } from '@polychron/contract';
import { registerPerson } from '../acts/people.ts';
import { performRemoveGroup, performSaveGroup } from '../acts/groups.ts';
import { readGroups, readPeople } from '../reads/people.ts';
import type { ContractRouter } from './router.ts';

/** Accounts and groups. */
export function peopleRoutes(router: ContractRouter): void {
  router.on(routes.listPeople, ({ asker, query }) => readPeople(asker, query));
  router.on(routes.addPerson, ({ asker, body }) => registerPerson(asker, body));
  router.on(routes.listGroups, async ({ asker }) => {
    const items = await readGroups(asker);
    return { items, next: null, total: items.length };
  });
  router.on(routes.addGroup, ({ asker, body }) => performSaveGroup(asker, null, body));
  router.on(routes.changeGroup, ({ asker, params, body }) => performSaveGroup(asker, params.id, body));
  router.on(routes.removeGroup, ({ asker, params }) => performRemoveGroup(asker, params.id));
}
