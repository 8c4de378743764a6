import type * as contract from '@polychron/contract';
import { submit } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { performOnVersion } from './onVersion.ts';
import type { VersionCommand } from './publish.ts';

/** Asks the approvers about a version, the latest unless another is named. */
export function performSubmit(
  asker: Asker,
  documentId: string,
  command: VersionCommand,
): Promise<contract.Version> {
  const { version: name, ...rest } = command;
  return performOnVersion(asker, { documentId, name }, ({ document, actor }, version, now) =>
    submit(document, actor, { version, ...rest }, now),
  );
}
