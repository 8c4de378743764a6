import type * as contract from '@polychron/contract';
import { prolong } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { custodyAnswer } from '../reads/custody.ts';
import { perform } from './perform.ts';

/** Moves the end of the caller's own check-out. */
export async function performProlong(
  asker: Asker,
  documentId: string,
  until: Date,
): Promise<contract.Custody> {
  const { access } = await perform(asker, documentId, ({ document, actor }, now) =>
    prolong(document, actor, { until }, now),
  );
  return custodyAnswer(asker.context, access);
}
