import type * as contract from '@polychron/contract';
import { changeFields, type ChangeFields, isRefusal, type Level, type Version } from '@polychron/core';
import { memberId } from '../access/actor.ts';
import type { Asker } from '../access/caller.ts';
import type { Context } from '../context.ts';
import { commonAmong, type SentFields } from '../reads/fieldsView.ts';
import type { Tx } from '../store/database.ts';
import { loadApprovers, type LoadedDocument } from '../store/documents.ts';
import { namesOf, nobody } from '../store/people.ts';
import { ownValues } from './givenFields.ts';
import { perform, versionAnswer } from './perform.ts';

/** People of a document by account; left out, they stay. */
export interface NamedPeople {
  owner?: string | undefined;
  coAuthors?: string[] | undefined;
  approvers?: string[] | undefined;
}

/** What a change of a document asks for: fields, which make a version, and people, which do not. */
export interface FieldChange {
  fields: SentFields & Omit<ChangeFields['fields'], 'own'> & NamedPeople;
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
  const { owner, coAuthors, approvers } = command.fields;
  const common = commonAmong(command.fields);
  const subject: { latest: Version | null } = { latest: null };
  const performed = await perform(asker, documentId, async ({ document, actor }, now, tx) => {
    subject.latest = document.latest;
    const unnamed = changeFields(document, actor, { ...command, fields: common }, now);
    // Who may not change the document is not told who is a member.
    if (isRefusal(unnamed) && !settledByNames.includes(unnamed.code)) return unnamed;
    const library = { id: document.libraryId, rules: document.rules };
    const own = await ownValues(asker.context, library, command.fields, tx);
    const people = await peopleChange(asker.context, document, { owner, coAuthors, approvers }, tx);
    return changeFields(document, actor, { ...command, fields: { ...common, own }, people }, now);
  });
  return versionAnswer(asker, performed, subject.latest);
}

/** What is refused only as long as it is not known which people are named, and where. */
const settledByNames = ['nothing-changed', 'fields-missing'];

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
