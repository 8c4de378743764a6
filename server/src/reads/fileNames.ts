import type * as contract from '@polychron/contract';
import { fileNamesIn, isNamedAs, numbersIn } from '@polychron/core';
import { sightIn } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { findFileNames } from '../store/fileNames.ts';

/** Documents told of one file at most. */
const mostMatches = 20;

/**
 * Documents of a library that a file may be meant for, as its name says: core says which name is whose, over
 * the versions the caller sees. The newest version that is called so stands for each.
 */
export async function findByFileName(
  asker: Asker,
  libraryId: string,
  name: string,
): Promise<contract.FileNameMatches> {
  const sight = await sightIn(asker, libraryId);
  const asked = { names: fileNamesIn(name), numbers: numbersIn(name) };
  const { found, more } = await findFileNames(asker.context, libraryId, sight, asked);
  const matches = new Map<string, contract.FileNameMatches['matches'][number]>();
  const newestFirst = [...found].sort((a, b) => b.sequence - a.sequence);
  for (const how of ['exactly', 'number'] as const) {
    for (const file of newestFirst) {
      if (matches.has(file.documentId) || isNamedAs(name, file) !== how) continue;
      const { documentId: id, number, title, label } = file;
      matches.set(id, { document: { id, number, title }, how, label });
    }
  }
  const all = [...matches.values()];
  return { matches: all.slice(0, mostMatches), more: more || all.length > mostMatches };
}
