import type { ContentFacts } from '@polychron/core';
import { Op } from 'sequelize';
import { v7 as newId } from 'uuid';
import type { KeptSave } from './custody.ts';
import { rows, type Tx } from './database.ts';
import { type DeskFileKind, deskFileKinds, type DeskFileRow } from './models.ts';
import type { Store } from './store.ts';
import { lockPerson } from './people.ts';
import { contentOf } from './versions.ts';

/** A file on somebody's Desk. */
export interface DeskFile {
  id: string;
  kind: DeskFileKind;
  content: ContentFacts;
  /** The document and the version it was taken from, where that is known. */
  documentId: string | null;
  baseId: string | null;
  createdAt: Date;
  changedAt: Date;
  /** Why and by whom a check-out was lifted, of a copy set aside. */
  reason: string | null;
  byId: string | null;
  /** The library it is to be registered in, and what is known of the document, as it was sent. */
  meantFor: { libraryId: string; fields: Record<string, unknown> } | null;
}

const toFile = (row: DeskFileRow): DeskFile => ({
  id: row.id,
  // Those that programs keep for a while are not among what is found here.
  kind: row.kind as DeskFileKind,
  content: contentOf(row),
  documentId: row.documentId,
  baseId: row.baseId,
  createdAt: row.createdAt,
  changedAt: row.changedAt,
  reason: row.reason,
  byId: row.byId,
  meantFor: row.forLibraryId === null ? null : { libraryId: row.forLibraryId, fields: knownFields(row) },
});

const knownFields = ({ forFields }: DeskFileRow): Record<string, unknown> =>
  JSON.parse(forFields ?? '{}') as Record<string, unknown>;

/** Not those that programs keep for a while. */
const shown = { kind: { [Op.in]: [...deskFileKinds] } };

/** A file of a person's own; locked inside a transaction. Null where they have no such. */
export async function findDeskFile(
  store: Store,
  personId: string,
  id: string,
  tx?: Tx,
): Promise<DeskFile | null> {
  const locked = tx ? { transaction: tx, lock: tx.LOCK.UPDATE } : {};
  const row = await store.models.DeskFile.findOne({ where: { id, personId, ...shown }, ...locked });
  return row && toFile(row);
}

/** A person's files, the last changed first; with how many they are. */
export async function deskFilesOf(
  store: Store,
  personId: string,
  count: number,
): Promise<{ files: DeskFile[]; total: number }> {
  const found = await store.models.DeskFile.findAndCountAll({
    where: { personId, ...shown },
    order: [
      ['changedAt', 'DESC'],
      ['id', 'DESC'],
    ],
    limit: count,
  });
  return { files: found.rows.map(toFile), total: found.count };
}

/** What a person keeps beside the libraries' versions. */
interface DeskUse {
  /** Files on the Desk. */
  files: number;
  /** Bytes of these, of the saves before them, and of the saves of what the person holds. */
  bytes: number;
}

/**
 * What a person keeps. Inside a transaction their Desk is locked until it ends, so that two uploads do not
 * take the same room.
 */
export async function deskUse(store: Store, personId: string, tx?: Tx): Promise<DeskUse> {
  if (tx) await lockPerson(store, personId, tx);
  const [found] = await rows<{ files: number; bytes: number }>(
    store.db,
    `SELECT (SELECT COUNT(*) FROM desk_files WHERE person_id = :personId)
       + (SELECT COUNT(*) FROM own_places WHERE person_id = :personId AND file_id IS NULL) AS files,
       (SELECT COALESCE(SUM(LENGTH(properties) - 2), 0) FROM own_places WHERE person_id = :personId) +
       (SELECT COALESCE(SUM(size), 0) FROM desk_files WHERE person_id = :personId)
       + (SELECT COALESCE(SUM(e.size), 0) FROM desk_files f JOIN desk_saves e ON e.file_id = f.id
          WHERE f.person_id = :personId)
       + (SELECT COALESCE(SUM(s.size), 0) FROM checkouts c JOIN saves s ON s.document_id = c.document_id
          WHERE c.holder_id = :personId) AS bytes`,
    { personId },
    tx,
  );
  return { files: Number(found?.files ?? 0), bytes: Number(found?.bytes ?? 0) };
}

/** Keeps a file on somebody's Desk; returns its id. Its content must be stored already. */
export async function insertDeskFile(
  store: Store,
  personId: string,
  file: Pick<DeskFile, 'content' | 'documentId' | 'baseId' | 'createdAt' | 'meantFor'> & {
    kind: DeskFileRow['kind'];
  },
  tx: Tx,
): Promise<string> {
  const id = newId();
  const { content, createdAt, meantFor, ...rest } = file;
  const meant = meantFor && {
    forLibraryId: meantFor.libraryId,
    forFields: JSON.stringify(meantFor.fields),
  };
  await store.models.DeskFile.create(
    { id, personId, createdAt, changedAt: createdAt, ...rest, ...content, ...meant },
    { transaction: tx },
  );
  return id;
}

/** Writes a file anew. */
export async function updateDeskFile(
  store: Store,
  id: string,
  changed: { content: ContentFacts; changedAt: Date },
  tx: Tx,
): Promise<void> {
  await store.models.DeskFile.update(
    { ...changed.content, changedAt: changed.changedAt },
    { where: { id }, transaction: tx },
  );
}

/** Removes a file as long as it has this content; false where another was quicker, or changed it. */
export async function deleteDeskFile(
  store: Store,
  personId: string,
  file: Pick<DeskFile, 'id' | 'content'>,
  tx: Tx,
): Promise<boolean> {
  const where = { id: file.id, personId, sha256: file.content.sha256 };
  return (await store.models.DeskFile.destroy({ where, transaction: tx })) > 0;
}

/** The earlier saves of copies set aside, oldest first, by file. */
export async function deskSavesOf(
  store: Store,
  fileIds: readonly string[],
): Promise<Map<string, KeptSave[]>> {
  const found = await store.models.DeskSave.findAll({
    where: { fileId: [...fileIds] },
    order: ['position'],
  });
  const byFile = new Map<string, KeptSave[]>();
  for (const { fileId, position, at, ...row } of found.map((save) => save.get({ plain: true }))) {
    byFile.set(fileId, [...(byFile.get(fileId) ?? []), { position, at, ...contentOf(row) }]);
  }
  return byFile;
}

/** One earlier save of a copy set aside; null where there is none. */
export async function findDeskSave(
  store: Store,
  fileId: string,
  position: number,
): Promise<ContentFacts | null> {
  const save = await store.models.DeskSave.findOne({ where: { fileId, position } });
  return save && contentOf(save);
}
