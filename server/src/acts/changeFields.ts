import type * as contract from '@polychron/contract';
import { changeFields, type ChangeFields, isRefusal, type Level, type Version } from '@polychron/core';
import { memberId } from '../access/actor.ts';
import type { Asker } from '../access/caller.ts';
import type { Context } from '../context.ts';
import type { Tx } from '../store/database.ts';
import { loadApprovers, type LoadedDocument } from '../store/documents.ts';
import { namesOf, nobody } from '../store/people.ts';
import { perform, versionAnswer } from './perform.ts';

/** People of a document by account; left out, they stay. */
export interface NamedPeople {
  owner?: string | undefined;
  coAuthors?: string[] | undefined;
  approvers?: string[] | undefined;
}

/** What a change of a document asks for: fields, which make a version, and people, which do not. */
export interface FieldChange {
  fields: ChangeFields['fields'] & NamedPeople;
  comment: string;
  level?: Level | undefined;
}

/**
 * Changes fields, which is a new version with the same content; a change of the document's people alone is
 * only recorded.
 */
export async function performChangeFields(
  asker: Asker,
  documentId: string,
  command: FieldChange,
): Promise<contract.Version> {
  const { owner, coAuthors, approvers, ...fields } = command.fields;
  const subject: { latest: Version | null } = { latest: null };
  const performed = await perform(asker, documentId, async ({ document, actor }, now, tx) => {
    subject.latest = document.latest;
    const withoutPeople = changeFields(document, actor, { ...command, fields }, now);
    // Who may not change the document is not told who is a member.
    if (isRefusal(withoutPeople) && withoutPeople.code !== 'nothing-changed') return withoutPeople;
    const people = await peopleChange(asker.context, document, { owner, coAuthors, approvers }, tx);
    return changeFields(document, actor, { ...command, fields, people }, now);
  });
  return versionAnswer(asker, performed, subject.latest);
}

/** The people named, as core takes them; null where nobody is. @throws Refused `account-unknown` */
async function peopleChange(
  context: Context,
  document: LoadedDocument,
  asked: NamedPeople,
  tx: Tx,
): Promise<ChangeFields['people']> {
  const named = Object.fromEntries(Object.entries(asked).filter(([, value]) => value !== undefined));
  if (Object.keys(named).length === 0) return null;
  const { id, libraryId, rules } = document;
  const [ownerId] = await idsOf(context, libraryId, asked.owner === undefined ? [] : [asked.owner], tx);
  const name = (await namesOf(context, [ownerId ?? null], tx)).get(ownerId ?? '') ?? nobody;
  const own = asked.approvers && (await idsOf(context, libraryId, asked.approvers, tx));
  const libraries = new Map([[libraryId, { rules }]]);
  const askedThen =
    own && (await loadApprovers(context, [{ id, libraryId, approverIds: own }], libraries, tx));
  return {
    named,
    owner: ownerId === undefined ? null : { id: ownerId, name: name.name },
    coAuthorIds: asked.coAuthors ? await idsOf(context, libraryId, asked.coAuthors, tx) : null,
    approvers: own && askedThen ? { own, asked: askedThen.get(id) ?? [] } : null,
  };
}

/** Ids of members by account, in their order. @throws Refused `account-unknown` */
export async function idsOf(
  context: Context,
  libraryId: string,
  accounts: readonly string[],
  tx: Tx,
): Promise<string[]> {
  const found = [];
  for (const account of accounts) found.push(await memberId(context, libraryId, account, tx));
  return found;
}
