import type * as contract from '@polychron/contract';
import { confirmRead, distribute, labelIn, refuseDistributing, remindReaders } from '@polychron/core';
import { findVersion } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { readDistribution } from '../reads/distribution.ts';
import { keptFrom, outstandingReaders, readingsOf } from '../store/named.ts';
import { namedPeople } from './namedPeople.ts';
import { perform } from './perform.ts';

/** Says who is to read a document. Returns the list of those who are. */
export async function performDistribute(
  asker: Asker,
  documentId: string,
  body: { people: string[]; groups: string[] },
): Promise<contract.Distribution> {
  await perform(asker, documentId, async ({ document, actor }, now, tx) => {
    const refusal = refuseDistributing(document, actor);
    if (refusal) return refusal;
    const named = await namedPeople(asker.context, document.libraryId, body, tx);
    const isNobody = named.personIds.length + named.groupIds.length === 0;
    const unseeing = await keptFrom(asker.context, documentId, named.personIds, tx);
    return distribute(document, actor, { distribution: isNobody ? null : named, keptFrom: unseeing }, now);
  });
  return readDistribution(asker, documentId, { limit: 50 });
}

/** Reminds those who have not confirmed reading what is in force. */
export async function performRemind(asker: Asker, documentId: string): Promise<contract.Reminded> {
  let outstanding: string[] = [];
  await perform(asker, documentId, async ({ document, actor }, now, tx) => {
    const { id, libraryId, inForce } = document;
    outstanding = inForce
      ? await outstandingReaders(asker.context, { id, libraryId, inForceId: inForce.id }, tx)
      : [];
    return remindReaders(document, actor, { outstanding }, now);
  });
  return { reminded: outstanding.length };
}

/** Confirms that the caller has read a version. */
export async function performConfirmRead(
  asker: Asker,
  documentId: string,
  name: string,
): Promise<contract.ReadConfirmed> {
  const { context, caller } = asker;
  let confirmed = { version: '', at: new Date() };
  await perform(asker, documentId, async (access, now, tx) => {
    const version = await findVersion(asker, access, name, tx);
    const before = (await readingsOf(context, version.id, caller.id, tx)).get(caller.id) ?? null;
    confirmed = { version: labelIn(access.document, version), at: now };
    return confirmRead(access.document, access.actor, { version, confirmed: before }, now);
  });
  return { version: confirmed.version, at: confirmed.at.toISOString() };
}
