import type * as contract from '@polychron/contract';
import { labelIn, liveLock } from '@polychron/core';
import type { Access } from '../access/caller.ts';
import { sees } from '../access/sees.ts';
import type { KeptSave } from '../store/custody.ts';
import type { PersonOf } from './fieldsView.ts';
import { instant } from './versionView.ts';

/** Who holds the document; base, end, reason and saves only for those who see base and latest version. */
export function custodyView(access: Access, person: PersonOf, now: Date): contract.Custody | null {
  const { document, actor } = access;
  const { custody } = document;
  if (!custody) return null;
  const { base, until, workingCopy } = custody;
  const mine = custody.holderId === actor.id;
  const holder = { holder: person(custody.holderId), mine, since: custody.since.toISOString() };
  if (!sees(access, base) || !(mine || sees(access, document.latest))) {
    const untold = { until: null, reason: null, base: null, saves: 0, lastSavedAt: null };
    const unopened = { door: null, openUntil: null, toFinish: null };
    return { ...holder, ...untold, overdue: false, workingCopy: null, ...unopened };
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
    door: custody.door,
    openUntil: mine ? instant(liveLock(custody, now)?.until ?? null) : null,
    toFinish: mine ? instant(custody.askedAt) : null,
  };
}

/** A save as the API tells it. */
export const saveView = ({ position, at, fileName, size, sha256 }: KeptSave): contract.Save => ({
  position,
  at: at.toISOString(),
  fileName,
  size,
  sha256,
});
