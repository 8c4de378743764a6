import type * as contract from '@polychron/contract';
import { seesVersion, labelIn } from '@polychron/core';
import type { Access } from '../access/caller.ts';
import { instant } from './versionView.ts';

/** Account and name of a person by id. */
export type PersonOf = (id: string) => contract.Person;

/** Who holds the document; base, end, reason and saves only for those who see base and latest version. */
export function custodyView(
  { document, actor }: Access,
  person: PersonOf,
  now: Date,
): contract.Custody | null {
  const { custody } = document;
  if (!custody) return null;
  const { base, until, workingCopy } = custody;
  const mine = custody.holderId === actor.id;
  const sees = (version: typeof base): boolean => seesVersion(document, actor, version);
  const holder = { holder: person(custody.holderId), mine, since: custody.since.toISOString() };
  if (!sees(base) || !(mine || sees(document.latest))) {
    const untold = { until: null, reason: null, base: null, saves: 0, lastSavedAt: null };
    return { ...holder, ...untold, overdue: false, workingCopy: null };
  }
  return {
    ...holder,
    until: instant(until),
    reason: custody.reason,
    base: labelIn(document, base),
    saves: custody.saves,
    lastSavedAt: instant(custody.lastSavedAt),
    overdue: until !== null && until.getTime() < now.getTime(),
    workingCopy:
      mine && workingCopy
        ? { fileName: workingCopy.fileName, size: workingCopy.size, sha256: workingCopy.sha256 }
        : null,
  };
}
