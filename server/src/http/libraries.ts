import { routes } from '@polychron/contract';
import { performChangeLibrary, performCreateLibrary } from '../acts/libraries.ts';
import { performSetMembers } from '../acts/setMembers.ts';
import { listLibraries, readLibrary, readNextNumber } from '../reads/libraries.ts';
import { readLibraryPeople, readMembers } from '../reads/members.ts';
import type { ContractRouter } from './router.ts';

/** Libraries and their members. */
export function libraryRoutes(router: ContractRouter): void {
  router.on(routes.listLibraries, async ({ asker }) => {
    const items = await listLibraries(asker);
    return { items, next: null, total: items.length };
  });
  router.on(routes.createLibrary, ({ asker, body }) => performCreateLibrary(asker, body));
  router.on(routes.readLibrary, async ({ asker, params, res }) => {
    const { view, tag } = await readLibrary(asker, params.id);
    res.set('ETag', tag);
    return view;
  });
  router.on(routes.changeLibrary, ({ asker, params, body }) => performChangeLibrary(asker, params.id, body));
  router.on(routes.nextNumber, ({ asker, params, query }) => readNextNumber(asker, params.id, query.type));
  router.on(routes.listMembers, async ({ asker, params, res }) => {
    const { members, tag } = await readMembers(asker, params.id);
    res.set('ETag', tag);
    return members;
  });
  router.on(routes.libraryPeople, ({ asker, params, query }) => readLibraryPeople(asker, params.id, query));
  router.on(routes.setMembers, ({ asker, params, query, body }) =>
    performSetMembers(asker, params.id, body, query.handOverTo),
  );
}
