import type * as contract from '@polychron/contract';
import { explainVersion, formatLabel, may, refuse, roles as allRoles, rolesFor } from '@polychron/core';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { namesOf } from '../store/documents.ts';
import { pageOfVisible } from '../store/visibleVersions.ts';
import { accessDocument, type Caller, findVersion, rolesIn } from './access.ts';

/**
 * Members by versions of a document, each cell with its reason: of one version, or of a page of them, newest first. A cursor is the id of
 * the last version of the page before.
 */
export async function readVisibility(context: Context, caller: Caller, documentId: string, query: { version?: string | undefined; cursor?: string | undefined; limit: number }): Promise<contract.Visibility> {
  const access = await accessDocument(context, caller, documentId);
  const { document, actor } = access;
  if (!may(actor.roles, 'seeAs')) throw new Refused(refuse('forbidden', 'role-missing', `Who sees what is told to ${rolesFor('seeAs')} of this library.`, { needs: rolesFor('seeAs') }));
  const before = query.cursor === undefined ? null : (await findVersion(context, access, query.cursor)).sequence;
  const one = query.version === undefined ? null : await findVersion(context, access, query.version);
  const page = one ? { versions: [one], total: 1 } : await pageOfVisible(context, actor, document.rules, documentId, { beforeSequence: before, limit: query.limit + 1 });
  const versions = page.versions.slice(0, query.limit);
  const held = await rolesIn(context, document.libraryId, null);
  const people = await namesOf(context, [...held.keys()]);
  const label = (version: (typeof versions)[number]): string => formatLabel(version, document.presentEra);
  return {
    versions: versions.map((version) => ({ id: version.id, label: label(version), state: version.state, standing: version.standing })),
    members: [...held].map(([id, roles]) => {
      const { account, name } = people.get(id) ?? { account: '', name: '' };
      return {
        account, name, roles: allRoles.filter((role) => roles.has(role)),
        sees: versions.map((version) => ({ version: label(version), ...explainVersion(document, { id, name, roles }, version, { name }) })),
      };
    }).sort((a, b) => a.name.localeCompare(b.name)),
    next: page.versions.length > query.limit ? versions.at(-1)?.id ?? null : null, total: page.total,
  };
}
