import type * as contract from '@polychron/contract';
import { explainVersion, labelIn, roles as allRoles, type Version } from '@polychron/core';
import { accessDocument, findVersion, requireRole } from '../access/admission.ts';
import type { Access, Asker } from '../access/caller.ts';
import { type Page, partOf } from '../store/cursors.ts';
import { rolesIn } from '../store/members.ts';
import { namesOf, nobody } from '../store/people.ts';
import { pageOfVisible } from '../store/versions.ts';

/**
 * Members by versions of a document, each cell with its reason: of one version, or of a page of them, newest
 * first. A cursor is the id of the last version of the page before.
 */
export async function readVisibility(
  asker: Asker,
  documentId: string,
  query: Page & { version?: string | undefined },
): Promise<contract.Visibility> {
  const { context } = asker;
  const access = await accessDocument(asker, documentId);
  const { document, actor } = access;
  requireRole(actor, 'seeAs', 'Being told who sees what');
  const page = await versionsAsked(asker, access, query);
  const { shown: versions, next } = partOf(page.versions, query.limit, (last) => last.id);
  const held = await rolesIn(context, document.libraryId, null);
  const people = await namesOf(context, [...held.keys()]);
  const label = (version: Version): string => labelIn(document, version);
  const members = [...held].map(([id, roles]) => {
    const { account, name } = people.get(id) ?? nobody;
    const sees = versions.map((version) => ({
      version: label(version),
      ...explainVersion(document, { id, name, roles }, version, { name }),
    }));
    return { account, name, roles: allRoles.filter((role) => roles.has(role)), sees };
  });
  return {
    versions: versions.map((version) => {
      const { id, state, standing } = version;
      return { id, label: label(version), state, standing };
    }),
    members: members.sort((a, b) => a.name.localeCompare(b.name)),
    next,
    total: page.total,
  };
}

async function versionsAsked(
  asker: Asker,
  access: Access,
  query: Page & { version?: string | undefined },
): Promise<{ versions: Version[]; total: number }> {
  const { cursor, version, limit } = query;
  if (version !== undefined) {
    return { versions: [await findVersion(asker, access, version)], total: 1 };
  }
  const { document, actor } = access;
  const before = cursor === undefined ? null : (await findVersion(asker, access, cursor)).sequence;
  const sight = { actor, rules: document.rules };
  return pageOfVisible(asker.context, sight, document, { before, count: limit + 1 });
}
