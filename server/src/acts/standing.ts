import type * as contract from '@polychron/contract';
import { refuseWithoutSchedule, reinstate, reschedule, takeBack, withdraw } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { publishedAfter, publishedBefore } from '../store/versions.ts';
import { type DecidingOnVersion, performOnVersion } from './onVersion.ts';

/** A version by label or id; left out, the one that the act is mostly about. */
interface Named {
  documentId: string;
  name: string | undefined;
}

/** Withdraws a published version: what is in force, unless another is named. Returns it. */
export const performWithdraw = (asker: Asker, of: Named, reason: string): Promise<contract.Version> =>
  performOnVersion(
    asker,
    { ...of, unnamed: ({ inForce }) => inForce },
    async ({ document, actor }, version, now, tx) => {
      const previous = await publishedBefore(asker.context, document.id, version.sequence, tx);
      return withdraw(document, actor, { version, reason, previous }, now);
    },
  );

/** Puts an earlier published version back in force. Returns it. */
export const performReinstate = (asker: Asker, of: Named, reason: string): Promise<contract.Version> =>
  performOnVersion(asker, of, async ({ document, actor }, version, now, tx) => {
    const later = await publishedAfter(asker.context, document.id, version.sequence, tx);
    return reinstate(document, actor, { version, reason, later }, now);
  });

/** An act on a scheduled version: the one named, or the next to come into force. */
const onScheduled = (asker: Asker, of: Named, decide: DecidingOnVersion): Promise<contract.Version> =>
  performOnVersion(asker, { ...of, unnamed: ({ scheduled }) => scheduled[0] }, (access, version, now, tx) => {
    const refusal = of.name === undefined ? refuseWithoutSchedule(access.document, access.actor) : null;
    return refusal ?? decide(access, version, now, tx);
  });

/** Lets a scheduled version come into force at another moment, or at once (null). Returns it. */
export const performReschedule = (
  asker: Asker,
  of: Named,
  inForceFrom: Date | null,
): Promise<contract.Version> =>
  onScheduled(asker, of, ({ document, actor }, version, now) =>
    reschedule(document, actor, { version, inForceFrom }, now),
  );

/** Takes a scheduled version back before its moment. Returns it. */
export const performTakeBack = (asker: Asker, of: Named, reason: string): Promise<contract.Version> =>
  onScheduled(asker, of, ({ document, actor }, version, now) =>
    takeBack(document, actor, { version, reason }, now),
  );
