import type * as contract from '@polychron/contract';
import {
  type ContentFacts,
  cleanFileName,
  createDocument,
  type Fields,
  type Level,
  type Opening,
  asOwn,
  patternFor,
  refuse,
  withOwn,
} from '@polychron/core';
import { v7 as newId } from 'uuid';
import { accessLibrary, requireOpen, requireRole } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { storeContent } from '../content/contents.ts';
import type { StagedFile } from '../content/staging.ts';
import type { Context } from '../context.ts';
import { commonAmong, type SentFields } from '../reads/fieldsView.ts';
import { templateContent } from '../reads/templates.ts';
import { readDocument } from '../reads/document.ts';
import { whyNotRead } from '../reads/reading.ts';
import { accepted, Refused } from '../refused.ts';
import { isDuplicate, transact, type Tx } from '../store/database.ts';
import {
  bytesHeldAgainst,
  insertDocument,
  loadApprovers,
  loadDocument,
  proposeNumber,
} from '../store/documents.ts';
import { keepOpening } from '../store/keepDecision.ts';
import type { LibraryRow } from '../store/models.ts';
import { namesOf, nobody } from '../store/people.ts';
import { loadRules } from '../store/rules.ts';
import { idsOf, type NamedPeople } from './changeFields.ts';
import { ownValues } from './givenFields.ts';
import { publish, toldOf } from './perform.ts';

/** A first content that is kept already, or is kept in the document's transaction. */
export interface FirstContent {
  facts: ContentFacts;
  keep(tx: Tx): Promise<void>;
}

/** A document to be registered; the number is proposed by the library where missing. */
export interface NewDocument {
  fields: SentFields & Fields & NamedPeople & { number?: string | undefined };
  comment: string;
  level?: Level | undefined;
  /** The version of a template that it begins with. */
  templateVersionId?: string | undefined;
}

/** Lets through whoever registers documents here, before an upload is read. @throws Refused `role-missing` */
export async function admitCreating(asker: Asker, libraryId: string): Promise<void> {
  const { library, actor } = await accessLibrary(asker, libraryId);
  requireRole(actor, 'create', 'Registering a document');
  requireOpen(library);
}

/** An uploaded file as a first content. */
export const uploaded = (context: Context, file: StagedFile): FirstContent => ({
  facts: file.facts,
  keep: (tx) => storeContent(context, file, file.facts.sha256, tx),
});

/** Registers a document with its first version. @throws Refused `number-taken` and what core refuses */
export async function performCreate(
  asker: Asker,
  libraryId: string,
  wanted: NewDocument,
  content: FirstContent,
): Promise<contract.MadeDocument> {
  const { context, caller } = asker;
  const { number } = wanted.fields;
  const kept = await transact(context.db, async (tx) => {
    const { library, actor } = await accessLibrary(asker, libraryId, { tx });
    requireOpen(library);
    const by = { personId: caller.id, at: context.clock() };
    const opening = await openingOf(asker, library, wanted, tx);
    const { coAuthors, approvers } = wanted.fields;
    const own = await ownValues(context, { id: libraryId, rules: opening.rules }, wanted.fields, tx);
    const fields = { ...commonAmong(wanted.fields), ...asOwn(withOwn({}, own)) };
    const { comment, level, templateVersionId = null } = wanted;
    const command = { content: content.facts, fields, comment, level, templateVersionId };
    const decision = accepted(createDocument(opening, actor, command, by.at));
    await content.keep(tx);
    const people = {
      ownerId: opening.owner.id,
      coAuthorIds: await idsOf(context, libraryId, coAuthors ?? [], tx),
      approverIds: await idsOf(context, libraryId, approvers ?? [], tx),
    };
    const { id, number: given } = opening;
    await insertDocument(context, { id, libraryId, number: given, createdAt: by.at, ...people }, tx);
    const facts = { ...decision.ledger?.facts, number: given };
    const recorded = { ...decision, ledger: { act: 'create', facts } };
    const reduced = await keepOpening(context, { ...opening, libraryId }, recorded, { by, tx });
    return { id, decision, reduced };
  }).catch((error: unknown) => {
    if (!isDuplicate(error)) throw error;
    const reason = `This library has a document ${number ?? ''} already, perhaps one you may not see. Choose another number.`;
    throw new Refused(refuse('conflict', 'number-taken', reason, { number }));
  });
  const document = await loadDocument(context, kept.id);
  if (document) publish(context, document, [toldOf(document, kept.decision, kept.reduced)]);
  const { view } = await readDocument(asker, kept.id);
  return { ...view, notRead: await whyNotRead(context, content.facts) };
}

async function openingOf(
  { context, caller }: Asker,
  library: LibraryRow,
  { fields }: NewDocument,
  tx: Tx,
): Promise<Opening> {
  const id = newId();
  const libraryId = library.id;
  const rules = await loadRules(context, libraryId, tx);
  const pattern = patternFor(rules.numberPatterns, library.code, fields.type);
  const ids = (accounts: readonly string[] = []): Promise<string[]> =>
    idsOf(context, libraryId, accounts, tx);
  const [ownerId = caller.id] = await ids(fields.owner === undefined ? [] : [fields.owner]);
  const { name } = (await namesOf(context, [ownerId], tx)).get(ownerId) ?? nobody;
  const approverIds = await ids(fields.approvers);
  const libraries = new Map([[libraryId, { rules }]]);
  const approvers = await loadApprovers(context, [{ id, libraryId, approverIds }], libraries, tx);
  return {
    id,
    number: fields.number ?? (await proposeNumber(context, libraryId, pattern, tx)),
    owner: { id: ownerId, name },
    coAuthorIds: await ids(fields.coAuthors),
    approvers: approvers.get(id) ?? [],
    rules,
    bytesKept: await bytesHeldAgainst(context, libraryId, rules, tx),
  };
}

/**
 * Registers a document that begins with the content in force of a template; its file is called like the
 * document.
 * @throws Refused `template-not-found` and what `performCreate` refuses
 */
export async function performBeginning(
  asker: Asker,
  libraryId: string,
  wanted: NewDocument,
  templateId: string,
): Promise<contract.MadeDocument> {
  const { versionId, content } = await templateContent(asker, libraryId, templateId);
  const ending = /\.[a-z0-9]+$/i.exec(content.fileName)?.[0] ?? '';
  const facts = { ...content, fileName: cleanFileName(`${wanted.fields.title}${ending}`) };
  const kept = { facts, keep: async (): Promise<void> => undefined };
  return performCreate(asker, libraryId, { ...wanted, templateVersionId: versionId }, kept);
}
