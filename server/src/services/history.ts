import type * as contract from '@polychron/contract';
import { changeFields as decideFields, type Fields, type Level, openDocx, isRefusal, publish as decidePublish, refuse, restore as decideRestore, type Version } from '@polychron/core';
import { readContent } from '../content/contents.ts';
import type { Context } from '../context.ts';
import type { ComparedContent } from '../jobs/readers.ts';
import { Refused } from '../refused.ts';
import { accessDocument, type Caller, findVersion } from './access.ts';
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
export async function publish(context: Context, caller: Caller, documentId: string, command: { version?: string | undefined; comment: string }, ifMatch?: string): Promise<contract.Version> {
  const made = await act(context, caller, documentId, { ifMatch }, async (access, now, tx) => {
    const version = command.version === undefined ? access.document.latest : await findVersion(context, access, command.version, tx);
    return decidePublish(access.document, access.actor, { version, comment: command.comment }, now);
  });
  return madeVersion(context, caller, documentId, made);
}

/** Changes fields: a new version with the same content. */
export async function changeFields(
  context: Context, caller: Caller, documentId: string, command: { fields: Partial<Fields>; comment: string; level?: Level | undefined }, ifMatch?: string,
): Promise<contract.Version> {
  const made = await act(context, caller, documentId, { ifMatch }, ({ document, actor }, now) => decideFields(document, actor, command, now));
  return madeVersion(context, caller, documentId, made);
}

/** A version read into blocks. */
export async function readReading(context: Context, caller: Caller, documentId: string, name: string): Promise<contract.Reading> {
  const version = await findVersion(context, await accessDocument(context, caller, documentId), name);
  return context.readers.read(version.content.sha256, version.content.mediaType, () => readContent(context, version.content.sha256)) as Promise<contract.Reading>;
}

/** Pictures shown in the page; others, such as drawings that can carry scripts, are not. */
const pictureTypes: Record<string, string> = { png: 'image/png', jpg: 'image/jpeg', jpeg: 'image/jpeg', gif: 'image/gif', webp: 'image/webp' };

/** A picture inside a version's file, by its part's name. */
export async function readPicture(context: Context, caller: Caller, documentId: string, name: string, part: string): Promise<{ mediaType: string; bytes: Uint8Array }> {
  const version = await findVersion(context, await accessDocument(context, caller, documentId), name);
  const mediaType = pictureTypes[/\.([a-z]+)$/i.exec(part)?.[1]?.toLowerCase() ?? ''];
  const pack = openDocx(await readContent(context, version.content.sha256));
  const bytes = isRefusal(pack) || !mediaType ? null : pack.part(part);
  if (!bytes || isRefusal(bytes) || !mediaType) throw new Refused(refuse('notFound', 'picture-not-found', 'The version has no such picture, or none that can be shown.'));
  return { mediaType, bytes };
}

/** What changed between two versions the caller sees. */
export async function compareVersions(context: Context, caller: Caller, documentId: string, names: { from: string; to: string }): Promise<contract.Comparison> {
  const access = await accessDocument(context, caller, documentId);
  const [older, newer] = [await findVersion(context, access, names.from), await findVersion(context, access, names.to)];
  const side = ({ content, fields }: Version): ComparedContent =>
    ({ sha256: content.sha256, mediaType: content.mediaType, fields, bytes: () => readContent(context, content.sha256) });
  return { from: names.from, to: names.to, ...await context.readers.compare(side(older), side(newer)) } as contract.Comparison;
}
