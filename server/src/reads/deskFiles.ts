import type * as contract from '@polychron/contract';
import { canEdit, type ContentFacts, labelIn, refuse, type Version } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { Refused } from '../refused.ts';
import { type DeskFile, deskSavesOf, findDeskFile, findDeskSave } from '../store/deskFiles.ts';
import { namesOf } from '../store/people.ts';
import { findVersions } from '../store/versions.ts';
import { saveView } from './custody.ts';
import { documentNames, type NamedDocument } from './documentNames.ts';

/** What is said of a file that is not on the caller's Desk. */
export const noFile = (): Refused =>
  new Refused(refuse('notFound', 'file-not-found', 'There is no such file on your Desk.'));

/** A file of the caller's own. @throws Refused `file-not-found` */
export async function ownFile({ context, caller }: Asker, id: string): Promise<DeskFile> {
  const file = await findDeskFile(context, caller.id, id);
  if (!file) throw noFile();
  return file;
}

/** One file of the caller's own, as the API tells it. */
export async function readDeskFile(asker: Asker, id: string): Promise<contract.DeskFile> {
  const [view] = await deskFileViews(asker, [await ownFile(asker, id)]);
  if (!view) throw noFile();
  return view;
}

/** The content of a file of the caller's own. */
export const readDeskContent = async (asker: Asker, id: string): Promise<ContentFacts> =>
  (await ownFile(asker, id)).content;

/** An earlier save of a copy that was set aside. */
export async function readDeskSave(asker: Asker, id: string, position: number): Promise<ContentFacts> {
  await ownFile(asker, id);
  const save = await findDeskSave(asker.context, id, position);
  if (!save) throw noFile();
  return save;
}

/** Files as the API tells them; a document is named only to whoever sees something of it. */
export async function deskFileViews(asker: Asker, files: readonly DeskFile[]): Promise<contract.DeskFile[]> {
  const { context } = asker;
  const [named, bases, people, saves] = await Promise.all([
    documentNames(
      asker,
      files.flatMap(({ documentId }) => documentId ?? []),
    ),
    findVersions(
      context,
      files.map(({ baseId }) => baseId),
    ),
    namesOf(
      context,
      files.map(({ byId }) => byId),
    ),
    deskSavesOf(
      context,
      files.map(({ id }) => id),
    ),
  ]);
  return files.map((file) => {
    const { id, kind, content, createdAt, changedAt, reason } = file;
    const of = named.get(file.documentId ?? '');
    return {
      id,
      kind,
      ...content,
      createdAt: createdAt.toISOString(),
      changedAt: changedAt.toISOString(),
      document: of?.name ?? null,
      base: labelOf(of, bases.get(file.baseId ?? '')),
      latest: labelOf(of, of?.newest),
      reason,
      by: people.get(file.byId ?? '') ?? null,
      saves: (saves.get(id) ?? []).map(saveView),
      editable: canEdit(content.mediaType, content.size) && kind !== 'setAside',
    };
  });
}

const labelOf = (of: NamedDocument | undefined, version: Version | undefined): string | null =>
  version && of ? labelIn(of.access.document, version) : null;
