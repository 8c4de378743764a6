import { maySeeAsOf, seesVersion, type Sighted, sightFacts } from '@polychron/core';
import type { Access } from './caller.ts';

/** Whether the actor sees a version of the document: now, or at the moment they look at. */
export const sees = ({ document, actor, past }: Access, version: Sighted & { id: string }): boolean =>
  past ? past.seen.has(version.id) : seesVersion(document, actor, version);

/** Whether the actor would see a version if it stood so. */
export function wouldSee({ document, actor, past }: Access, version: Sighted): boolean {
  if (!past) return seesVersion(document, actor, version);
  const { document: present, viewer } = past.now;
  return maySeeAsOf(
    { viewer: actor, facts: sightFacts(document, version), rules: document.rules },
    { viewer, facts: sightFacts(present, version), rules: present.rules },
  );
}
