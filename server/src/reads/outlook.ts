import type * as contract from '@polychron/contract';
import {
  isRefusal,
  labelIn,
  maySee,
  newVersion,
  reduce,
  reinstate,
  sightFacts,
  takeBack,
  withdraw,
} from '@polychron/core';
import { accessDocument, findVersion } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { Refused } from '../refused.ts';
import { rolesIn } from '../store/members.ts';
import { publishedAfter, publishedBefore } from '../store/versions.ts';

/**
 * What readers would have after an act on a published version, computed by the act itself.
 * @throws Refused as the act would be
 */
export async function readOutlook(
  asker: Asker,
  documentId: string,
  name: string,
  act: 'withdraw' | 'reinstate' | 'takeBack',
): Promise<contract.Outlook> {
  const { context } = asker;
  const access = await accessDocument(asker, documentId);
  const { document, actor } = access;
  const version = await findVersion(asker, access, name);
  const now = context.clock();
  const [previous, later] = await Promise.all([
    act === 'withdraw' ? publishedBefore(context, documentId, version.sequence) : null,
    act === 'reinstate' ? publishedAfter(context, documentId, version.sequence) : [],
  ]);
  const given = { version, reason: 'x' };
  const outcome = {
    withdraw: () => withdraw(document, actor, { ...given, previous }, now),
    reinstate: () => reinstate(document, actor, { ...given, later }, now),
    takeBack: () => takeBack(document, actor, given, now),
  }[act]();
  if (isRefusal(outcome)) throw new Refused(outcome);
  const known = [version, ...(previous ? [previous] : []), ...later];
  const { state, versions } = reduce(document, outcome.changes, { newId: () => newVersion, versions: known });
  const { inForce } = state;
  const wasInForce = document.inForce?.id === version.id;
  const members = inForce ? [...(await rolesIn(context, document.libraryId, null))] : [];
  return {
    inForce: inForce && labelIn(state, inForce),
    readers: members.filter(
      ([id, roles]) => inForce && maySee({ id, roles }, sightFacts(state, inForce), state.rules),
    ).length,
    withdrawn: versions
      .filter(({ after }) => after.state === 'withdrawn')
      .map(({ after }) => labelIn(state, after)),
    thinned: act === 'withdraw' && wasInForce && previous?.thinned ? labelIn(document, previous) : null,
  };
}
