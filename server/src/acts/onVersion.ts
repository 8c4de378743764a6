import type * as contract from '@polychron/contract';
import type { Outcome, Version } from '@polychron/core';
import { findVersion } from '../access/admission.ts';
import type { Access, Asker } from '../access/caller.ts';
import type { Tx } from '../store/database.ts';
import type { LoadedDocument } from '../store/documents.ts';
import { perform, versionAnswer } from './perform.ts';

/** Asks core about one version of a document. */
export type DecidingOnVersion = (
  access: Access,
  version: Version,
  now: Date,
  tx: Tx,
) => Outcome | Promise<Outcome>;

/**
 * An act on one version of a document: the one named, or the latest.
 * @param of.name label or id; left out: `of.unnamed`, or the latest version
 * @param hold asked once core has accepted, before anything is kept
 * @returns the version it added, else the one it was about
 */
export async function performOnVersion(
  asker: Asker,
  of: {
    documentId: string;
    name: string | undefined;
    unnamed?: (document: LoadedDocument) => Version | null | undefined;
  },
  decide: DecidingOnVersion,
  hold?: (version: Version, tx: Tx) => Promise<void>,
): Promise<contract.Version> {
  const subject: { version: Version | null } = { version: null };
  const performed = await perform(
    asker,
    of.documentId,
    async (access, now, tx) => {
      const unnamed = of.unnamed?.(access.document) ?? access.document.latest;
      subject.version = of.name === undefined ? unnamed : await findVersion(asker, access, of.name, tx);
      return decide(access, subject.version, now, tx);
    },
    async (tx) => {
      if (subject.version) await hold?.(subject.version, tx);
    },
  );
  return versionAnswer(asker, performed, subject.version);
}
