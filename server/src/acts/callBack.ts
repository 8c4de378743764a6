import type * as contract from '@polychron/contract';
import { callBack } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { performOnVersion } from './onVersion.ts';

/** Takes back a submission: the version is a draft again. */
export function performCallBack(
  asker: Asker,
  documentId: string,
  comment: string,
): Promise<contract.Version> {
  return performOnVersion(asker, { documentId, name: undefined }, ({ document, actor }, _, now) =>
    callBack(document, actor, { comment }, now),
  );
}
