import type { Document, Version } from '@polychron/contract';

/**
 * The version a document opens with: the latest where the viewer has work with it (they hold it, are asked
 * to decide about it, or it is theirs and not in force yet), else what is in force.
 */
export function firstShown(document: Document, account: string | null): Version {
  const { inForce, latest, custody, acts, owner, coAuthors } = document;
  if (account === null) return inForce ?? latest;
  const theirs = [owner, ...coAuthors, latest.author].some((person) => person.account === account);
  const works = Boolean(custody?.mine) || acts.decide.allowed || (theirs && acts.changeFields.allowed);
  return works ? latest : (inForce ?? latest);
}
