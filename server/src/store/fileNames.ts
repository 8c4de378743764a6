import { type Fields, formatLabel, type VersionNumber } from '@polychron/core';
import { rows } from './database.ts';
import { parseJson } from './models.ts';
import { sightCondition } from './sight.ts';
import type { Store } from './store.ts';
import type { Sight } from './versions.ts';

/** What a version's file is called, and its document with it. */
export interface NamedFile {
  documentId: string;
  number: string;
  title: string;
  fileName: string;
  label: string;
  sequence: number;
}

interface Row extends Omit<NamedFile, 'title' | 'label'>, VersionNumber {
  fields: unknown;
  presentEra: number;
}

/** Documents of the whole site with a file so called that are looked at, and of them those of the library. */
const mostOverAll = 5000;
const mostHere = 50;
/** Versions that are read of them, the newest first. */
const mostVersions = 2000;

/**
 * Versions that somebody sees of a library's documents: those whose file has one of these names, and all of
 * documents with one of these numbers. What it costs is bound, however many files are called so.
 * @returns `more`: whether not all were looked at
 */
export async function findFileNames(
  store: Store,
  libraryId: string,
  sight: Sight,
  { names, numbers }: { names: readonly string[]; numbers: readonly string[] },
): Promise<{ found: NamedFile[]; more: boolean }> {
  const given = { libraryId, names: [...names] };
  const called = `(SELECT DISTINCT document_id FROM versions WHERE file_name IN (:names) LIMIT ${mostOverAll + 1})`;
  const [[counted], here] = await Promise.all([
    rows<{ count: number }>(store.db, `SELECT COUNT(*) AS count FROM ${called} f`, given),
    rows<{ id: string }>(
      store.db,
      `SELECT d.id FROM ${called} f JOIN documents d ON d.id = f.document_id AND d.library_id = :libraryId
       LIMIT ${mostHere + 1}`,
      given,
    ),
  ]);
  const found = await Promise.all([
    versionsOf(store, sight, 'd.id IN (:wanted) AND v.file_name IN (:names)', {
      wanted: here.map(({ id }) => id),
      names: [...names],
    }),
    versionsOf(store, sight, 'd.library_id = :libraryId AND d.number IN (:wanted)', {
      libraryId,
      wanted: [...numbers],
    }),
  ]);
  return { found: found.flat(), more: Number(counted?.count) > mostOverAll || here.length > mostHere };
}

/** Versions somebody sees, of what is `wanted`; of nothing where that is empty. */
async function versionsOf(
  store: Store,
  { actor, rules }: Sight,
  which: string,
  given: { wanted: readonly string[] } & Record<string, unknown>,
): Promise<NamedFile[]> {
  if (given.wanted.length === 0) return [];
  const found = await rows<Row>(
    store.db,
    `SELECT d.id AS documentId, d.number, v.fields, v.file_name AS fileName, v.sequence, v.era, v.major, v.minor,
       v.numbering, h.present_era AS presentEra
     FROM documents d JOIN heads h ON h.document_id = d.id JOIN versions v ON v.document_id = d.id
     LEFT JOIN checkouts c ON c.document_id = d.id
     WHERE ${which} AND ${sightCondition(actor, rules)} ORDER BY v.sequence DESC LIMIT ${mostVersions}`,
    { viewer: actor.id, ...given },
  );
  return found.map(({ fields, presentEra, era, major, minor, numbering, ...row }) => ({
    ...row,
    title: parseJson<Fields>(fields).title,
    label: formatLabel({ era, major, minor, numbering }, presentEra),
  }));
}
