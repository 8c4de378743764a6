import type * as contract from '@polychron/contract';
import { recover, refuse, shelter, thin, type Version } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { holdContent } from '../content/contents.ts';
import { Refused } from '../refused.ts';
import type { Tx } from '../store/database.ts';
import { performOnVersion } from './onVersion.ts';

/** A version by label or id. */
export interface VersionOf {
  documentId: string;
  name: string;
}

/** Puts one version's content on the recovery shelf. */
export function performThin(asker: Asker, of: VersionOf, reason: string): Promise<contract.Version> {
  return performOnVersion(asker, of, ({ document, actor }, version, now) =>
    thin(document, actor, { version, reason }, now),
  );
}

/** Takes content back from the recovery shelf. */
export function performRecover(asker: Asker, of: VersionOf, reason: string): Promise<contract.Version> {
  const hold = async (version: Version, tx: Tx): Promise<void> => {
    if (await holdContent(asker.context, version.content.sha256, tx)) return;
    const gone = 'The content has left the recovery shelf and is gone. Its record stays.';
    throw new Refused(refuse('conflict', 'off-the-shelf', gone));
  };
  return performOnVersion(
    asker,
    of,
    ({ document, actor }, version, now) => recover(document, actor, { version, reason }, now),
    hold,
  );
}

/** Shelters a version from thinning, or ends that. */
export function performShelter(
  asker: Asker,
  of: VersionOf,
  command: { reason: string; sheltered: boolean },
): Promise<contract.Version> {
  return performOnVersion(asker, of, ({ document, actor }, version) =>
    shelter(document, actor, { version, ...command }),
  );
}
