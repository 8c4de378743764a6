import type * as contract from '@polychron/contract';
import { changeFields as decideFields, type Fields, type Level, openDocx, isRefusal, publish as decidePublish, refuse, restore as decideRestore, type Version } from '@polychron/core';
import { readContent } from '../content/contents.ts';
import type { Context } from '../context.ts';
import type { ComparedContent } from '../jobs/readers.ts';
import { Refused } from '../refused.ts';
import { appendLedger } from '../store/applyDecision.ts';
import type { Tx } from '../store/database.ts';
import type { LoadedDocument } from '../store/documents.ts';
import { accessDocument, type Caller, findVersion, memberId, refuseThinned } from './access.ts';
import { act, madeVersion } from './custody.ts';

/** Brings an earlier version's content back as a new version. */
export async function restore(
  context: Context, caller: Caller, documentId: string, command: { from: string; level: Level; comment: string; fields: boolean }, ifMatch?: string,
): Promise<contract.Version> {
  const made = await act(context, caller, documentId, { ifMatch }, async (access, now, tx) =>
    decideRestore(access.document, access.actor, { ...command, from: await findVersion(context, access, command.from, tx) }, now));
  return madeVersion(context, caller, documentId, made);
}

/** Publishes a draft: the one named, or the latest. */
export async function publish(context: Context, caller: Caller, documentId: string, command: { version?: string | undefined; comment: string; inForceFrom?: Date | null }, ifMatch?: string): Promise<contract.Version> {
  let published: string | null = null;
  const made = await act(context, caller, documentId, { ifMatch }, async (access, now, tx) => {
    const version = command.version === undefined ? access.document.latest : await findVersion(context, access, command.version, tx);
    published = version.id;
    return decidePublish(access.document, access.actor, { version, comment: command.comment, inForceFrom: command.inForceFrom ?? null }, now);
  });
  // Under whole numbers the version published keeps its number: no other is made.
  return madeVersion(context, caller, documentId, made ?? published);
}

/** What a change of a document asks for: fields, which make a version, and people, which do not. */
export interface FieldChange {
  fields: Partial<Fields> & { owner?: string | undefined; coAuthors?: string[] | undefined; approvers?: string[] | undefined };
  comment: string; level?: Level | undefined;
}

/** Changes fields, which is a new version with the same content; a change of the document's people alone is only recorded. */
export async function changeFields(context: Context, caller: Caller, documentId: string, command: FieldChange, ifMatch?: string): Promise<contract.Version> {
  const { owner, coAuthors, approvers, ...fields } = command.fields;
  const changesPeople = owner !== undefined || coAuthors !== undefined || approvers !== undefined;
  let latest: string | null = null;
  const made = await act(context, caller, documentId, { ifMatch }, async ({ document, actor }, now, tx) => {
    latest = document.latest.id;
    const outcome = decideFields(document, actor, { ...command, fields }, now);
    if (!changesPeople) return outcome;
    const onlyPeople = isRefusal(outcome) && outcome.code === 'nothing-changed';
    if (isRefusal(outcome) && !onlyPeople) return outcome;
    const people = await setPeople(context, document, { owner, coAuthors, approvers }, tx);
    if (onlyPeople) return { changes: [], ledger: { act: 'people', facts: people } };
    await appendLedger(context, { at: now, personId: caller.id, libraryId: document.libraryId, documentId, act: 'people', facts: people }, tx);
    return outcome;
  });
  return madeVersion(context, caller, documentId, made ?? latest);
}

async function setPeople(context: Context, document: LoadedDocument, asked: { owner?: string | undefined; coAuthors?: string[] | undefined; approvers?: string[] | undefined }, tx: Tx): Promise<Record<string, unknown>> {
  const ids = (accounts: readonly string[]): Promise<string[]> => Promise.all(accounts.map((account) => memberId(context, document.libraryId, account, tx)));
  const changed = {
    ...(asked.owner === undefined ? {} : { ownerId: await memberId(context, document.libraryId, asked.owner, tx) }),
    ...(asked.coAuthors === undefined ? {} : { coAuthorIds: await ids(asked.coAuthors) }),
    ...(asked.approvers === undefined ? {} : { approverIds: await ids(asked.approvers) }),
  };
  await context.models.Document.update(changed, { where: { id: document.id }, transaction: tx });
  return Object.fromEntries(Object.entries(asked).filter(([, value]) => value !== undefined));
}

/** A version read into blocks. */
export async function readReading(context: Context, caller: Caller, documentId: string, name: string): Promise<contract.Reading> {
  const version = refuseThinned(await findVersion(context, await accessDocument(context, caller, documentId), name), name);
  return context.readers.read(version.content.sha256, version.content.mediaType, () => readContent(context, version.content.sha256)) as Promise<contract.Reading>;
}

/** Pictures shown in the page; others, such as drawings that can carry scripts, are not. */
const pictureTypes: Record<string, string> = { png: 'image/png', jpg: 'image/jpeg', jpeg: 'image/jpeg', gif: 'image/gif', webp: 'image/webp' };

/** A picture inside a version's file, by its part's name. */
export async function readPicture(context: Context, caller: Caller, documentId: string, name: string, part: string): Promise<{ mediaType: string; bytes: Uint8Array }> {
  const version = refuseThinned(await findVersion(context, await accessDocument(context, caller, documentId), name), name);
  const mediaType = pictureTypes[/\.([a-z]+)$/i.exec(part)?.[1]?.toLowerCase() ?? ''];
  const pack = openDocx(await readContent(context, version.content.sha256));
  const bytes = isRefusal(pack) || !mediaType ? null : pack.part(part);
  if (!bytes || isRefusal(bytes) || !mediaType) throw new Refused(refuse('notFound', 'picture-not-found', 'The version has no such picture, or none that can be shown.'));
  return { mediaType, bytes };
}

/** What changed between two versions the caller sees. */
export async function compareVersions(context: Context, caller: Caller, documentId: string, names: { from: string; to: string }): Promise<contract.Comparison> {
  const access = await accessDocument(context, caller, documentId);
  const [older, newer] = [refuseThinned(await findVersion(context, access, names.from), names.from), refuseThinned(await findVersion(context, access, names.to), names.to)];
  const side = ({ content, fields }: Version): ComparedContent =>
    ({ sha256: content.sha256, mediaType: content.mediaType, fields, bytes: () => readContent(context, content.sha256) });
  return { from: names.from, to: names.to, ...await context.readers.compare(side(older), side(newer)) } as contract.Comparison;
}
