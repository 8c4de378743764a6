import type * as contract from '@polychron/contract';
import { type Level, restore } from '@polychron/core';
import { findVersion } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { perform, versionAnswer } from './perform.ts';

/** Which earlier version comes back, by name. */
export interface RestoreCommand {
  from: string;
  level?: Level | undefined;
  comment: string;
  fields: boolean;
}

/** Brings an earlier version's content back as a new version. */
export async function performRestore(
  asker: Asker,
  documentId: string,
  command: RestoreCommand,
): Promise<contract.Version> {
  const performed = await perform(asker, documentId, async (access, now, tx) => {
    const from = await findVersion(asker, access, command.from, tx);
    return restore(access.document, access.actor, { ...command, from }, now);
  });
  return versionAnswer(asker, performed);
}
