import type * as contract from '@polychron/contract';
import { publish } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { performOnVersion } from './onVersion.ts';

/** A publication as it is asked for, or a submission: of the version named, or the latest. */
export interface VersionCommand {
  version?: string | undefined;
  comment: string;
  inForceFrom: Date | null;
}

/**
 * Publishes a draft: the one named, or the latest. Under whole numbers the version keeps its number: no other
 * is made.
 */
export function performPublish(
  asker: Asker,
  documentId: string,
  command: VersionCommand,
): Promise<contract.Version> {
  const { version: name, ...rest } = command;
  return performOnVersion(asker, { documentId, name }, ({ document, actor }, version, now) =>
    publish(document, actor, { version, ...rest }, now),
  );
}
