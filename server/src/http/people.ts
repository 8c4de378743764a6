import { routes } from '@polychron/contract';
import { requireAdministrator } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import {
  endSession,
  endSessions,
  listSessions,
  listTokens,
  revokeToken,
  revokeTokens,
} from '../access/sessions.ts';
import { performChangePerson } from '../acts/closeAccount.ts';
import { registerPerson } from '../acts/people.ts';
import { performRemoveGroup, performSaveGroup } from '../acts/groups.ts';
import { readGroups, readPeople, requirePerson } from '../reads/people.ts';
import type { ContractRouter } from './router.ts';
import { sessionViews, tokenViews } from './sessions.ts';

/** Accounts and groups. */
export function peopleRoutes(router: ContractRouter): void {
  router.on(routes.listPeople, ({ asker, query }) => readPeople(asker, query));
  router.on(routes.addPerson, ({ asker, body }) => registerPerson(asker, body));
  router.on(routes.changePerson, ({ asker, params, body }) => performChangePerson(asker, params.id, body));
  router.on(routes.listSessionsOf, async ({ asker, params, req }) => {
    const { id } = await administered(asker, params.id);
    return sessionViews(await listSessions(asker.context, id, req.sessionSecret));
  });
  router.on(routes.endSessionsOf, async ({ asker, params, req }) => {
    const { id } = await administered(asker, params.id);
    await endSessions(asker.context, id, req.sessionSecret);
  });
  router.on(routes.endSessionOf, async ({ asker, params }) => {
    const { id } = await administered(asker, params.id);
    await endSession(asker.context, id, params.session);
  });
  router.on(routes.listTokensOf, async ({ asker, params }) => {
    const { id } = await administered(asker, params.id);
    return tokenViews(await listTokens(asker.context, id));
  });
  router.on(routes.revokeTokensOf, async ({ asker, params }) => {
    const { id } = await administered(asker, params.id);
    await revokeTokens(asker.context, id);
  });
  router.on(routes.revokeTokenOf, async ({ asker, params }) => {
    const { id } = await administered(asker, params.id);
    await revokeToken(asker.context, id, params.token);
  });
  router.on(routes.listGroups, ({ asker, query }) => readGroups(asker, query));
  router.on(routes.addGroup, ({ asker, body }) => performSaveGroup(asker, null, body));
  router.on(routes.changeGroup, ({ asker, params, query, body }) =>
    performSaveGroup(asker, params.id, body, query.handOverTo),
  );
  router.on(routes.removeGroup, ({ asker, params, query }) =>
    performRemoveGroup(asker, params.id, query.handOverTo),
  );
}

/** A person whose sign-ins a system administrator looks at or ends. @throws Refused `not-administrator` */
async function administered({ context, caller }: Asker, name: string) {
  requireAdministrator(caller, "Other people's sign-ins are looked after");
  return requirePerson(context, name);
}
