import type * as contract from '@polychron/contract';
import { explainVersion, labelIn, roles as allRoles, type Version } from '@polychron/core';
import { accessDocument, findVersion, requireRole } from '../access/admission.ts';
import type { Access, Asker } from '../access/caller.ts';
import { type Page, partOf } from '../store/cursors.ts';
import { rolesIn } from '../store/members.ts';
import { namesOf, nobody } from '../store/people.ts';
import { pageOfVisible } from '../store/versions.ts';

/** Members whose cells are told at once; among more one is found by name. */
const mostMembers = 100;

/** Of which versions, and of which members. */
type Asked = Page & { version?: string | undefined; member?: string | undefined };

const hasIn = (texts: readonly string[], sought: string): boolean =>
  texts.some((text) => text.toLocaleLowerCase().includes(sought.toLocaleLowerCase()));

/**
 * Members by versions of a document, each cell with its reason: of one version, or of a page of them, newest
 * first. A cursor is the id of the last version of the page before.
 */
export async function readVisibility(
  asker: Asker,
  documentId: string,
  query: Asked,
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
  const fitting = [...held]
    .map(([id, roles]) => ({ id, roles, ...(people.get(id) ?? nobody) }))
    .filter(({ account, name }) => hasIn([name, account], query.member ?? ''))
    .sort((a, b) => a.name.localeCompare(b.name));
  const members = fitting.slice(0, mostMembers).map(({ id, roles, account, name }) => {
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
    members,
    next,
    total: page.total,
    membersTotal: fitting.length,
  };
}

async function versionsAsked(
  asker: Asker,
  access: Access,
  query: Asked,
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
