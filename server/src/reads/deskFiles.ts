import type * as contract from '@polychron/contract';
import {
  type AskedValues,
  canEdit,
  type ContentFacts,
  labelIn,
  may,
  missingFields,
  refuse,
  type Version,
  withOwn,
} from '@polychron/core';
import { actorIn } from '../access/actor.ts';
import type { Asker } from '../access/caller.ts';
import { Refused } from '../refused.ts';
import { type DeskFile, deskSavesOf, findDeskFile, findDeskSave } from '../store/deskFiles.ts';
import { findLibrary } from '../store/libraries.ts';
import { namesOf } from '../store/people.ts';
import { loadRules } from '../store/rules.ts';
import { findVersions } from '../store/versions.ts';
import { saveView } from './custodyView.ts';
import { ownAmong } from './fieldsView.ts';
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
  const meant = await librariesMeant(asker, files);
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
      meantFor: file.meantFor && (meant.get(file.meantFor.libraryId)?.(file.meantFor.fields) ?? null),
      saves: (saves.get(id) ?? []).map(saveView),
      editable: canEdit(content.mediaType, content.size) && kind !== 'setAside',
    };
  });
}

type Meant = contract.DeskFile['meantFor'];

/**
 * What is told of a file by the library it is to be registered in, as long as the caller may register
 * documents there.
 */
async function librariesMeant(
  { context, caller }: Asker,
  files: readonly DeskFile[],
): Promise<Map<string, (fields: Record<string, unknown>) => Meant>> {
  const ids = [...new Set(files.flatMap(({ meantFor }) => meantFor?.libraryId ?? []))];
  const told = new Map<string, (fields: Record<string, unknown>) => Meant>();
  for (const id of ids) {
    const [library, { roles }] = await Promise.all([findLibrary(context, id), actorIn(context, caller, id)]);
    if (!library || !may(roles, 'create')) continue;
    const rules = await loadRules(context, id);
    const { code, name } = library;
    told.set(id, (fields) => {
      const known = fields as contract.KnownFields;
      const given = Object.entries(ownAmong(known)).filter(([, value]) => value !== undefined);
      const missing = missingFields(rules, known, withOwn({}, Object.fromEntries(given) as AskedValues));
      return { library: { id, code, name }, fields: known, missing };
    });
  }
  return told;
}

const labelOf = (of: NamedDocument | undefined, version: Version | undefined): string | null =>
  version && of ? labelIn(of.access.document, version) : null;
