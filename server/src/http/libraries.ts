import { routes } from '@polychron/contract';
import type { Context } from '../context.ts';
import { changeLibrary, createLibrary, listLibraries, readLibrary } from '../services/libraries.ts';
import { listMembers, setMembers } from '../services/members.ts';
import type { Door } from './bind.ts';

/** Libraries and their members. */
export function libraryRoutes(door: Door, context: Context): void {
  door.on(routes.listLibraries, async ({ caller }) => {
    const items = await listLibraries(context, caller);
    return { items, next: null, total: items.length };
  });
  door.on(routes.createLibrary, async ({ caller, body }) => createLibrary(context, caller, body));
  door.on(routes.readLibrary, async ({ caller, params, res }) => {
    const { view, tag } = await readLibrary(context, caller, params.id);
    res.set('ETag', tag);
    return view;
  });
  door.on(routes.changeLibrary, async ({ caller, params, body, req }) => changeLibrary(context, caller, params.id, body, req.get('if-match')));
  door.on(routes.listMembers, async ({ caller, params, res }) => {
    const { members, tag } = await listMembers(context, caller, params.id);
    res.set('ETag', tag);
    return members;
  });
  door.on(routes.setMembers, async ({ caller, params, body, req }) => setMembers(context, caller, params.id, body, req.get('if-match')));
}
