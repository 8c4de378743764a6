import type * as contract from '@polychron/contract';
import type { Outcome, Version } from '@polychron/core';
import { findVersion } from '../access/admission.ts';
import type { Access, Asker } from '../access/caller.ts';
import type { Tx } from '../store/database.ts';
import { perform, versionAnswer } from './perform.ts';

/** Asks core about one version of a document. */
export type DecidingOnVersion = (access: Access, version: Version, now: Date) => Outcome;

/**
 * An act on one version of a document: the one named, or the latest.
 * @param name label or id; left out: the latest version
 * @param hold asked once core has accepted, before anything is kept
 * @returns the version it added, else the one it was about
 */
export async function performOnVersion(
  asker: Asker,
  of: { documentId: string; name: string | undefined },
  decide: DecidingOnVersion,
  hold?: (version: Version, tx: Tx) => Promise<void>,
): Promise<contract.Version> {
  const subject: { version: Version | null } = { version: null };
  const performed = await perform(
    asker,
    of.documentId,
    async (access, now, tx) => {
      subject.version =
        of.name === undefined ? access.document.latest : await findVersion(asker, access, of.name, tx);
      return decide(access, subject.version, now);
    },
    async (tx) => {
      if (subject.version) await hold?.(subject.version, tx);
    },
  );
  return versionAnswer(asker, performed, subject.version);
}
