import { refuse } from '@polychron/core';
import { Refused } from '../refused.ts';
import type { Tx } from '../store/database.ts';
import type { Store } from '../store/store.ts';
import { heldRoles, type Stranded, strandedWork } from '../store/stranded.ts';

/** What of the work of people who lose roles by a change nobody could go on with. */
export async function strandedBy(
  store: Store,
  libraryIds: readonly string[],
  tx: Tx,
  change: () => Promise<void>,
): Promise<Stranded[]> {
  const before = await heldRoles(store, libraryIds, tx);
  await change();
  const after = await heldRoles(store, libraryIds, tx);
  const lost = [...before].filter((held) => !after.has(held));
  const personIds = [...new Set(lost.map((held) => held.split(' ')[1] ?? ''))];
  return strandedWork(store, { libraryIds, personIds }, tx);
}

/**
 * Makes a change of members or groups, where it leaves no work to nobody: a decision that is waited for, a
 * check-out, a document that somebody answers for. @throws Refused `work-left`
 */
export async function keepingWork(
  store: Store,
  libraryIds: readonly string[],
  tx: Tx,
  change: () => Promise<void>,
): Promise<void> {
  const [first] = await strandedBy(store, libraryIds, tx, change);
  if (!first) return;
  const { work, name, number, documents } = first;
  const which = documents === 1 ? number : `${number} and ${documents - 1} more`;
  throw new Refused(
    refuse('conflict', 'work-left', `${name} ${sentences[work](which)}`, { person: name, number, documents }),
  );
}

const sentences: Record<Stranded['work'], (which: string) => string> = {
  decides: (which) =>
    `is asked to decide about ${which} and could not any more. Put somebody in their place first, or keep the role.`,
  holds: (which) =>
    `holds ${which} and could not check in any more. Lift the check-out first, or keep the role.`,
  owns: (which) => `answers for ${which} and would be no member. Name another owner first, or keep a role.`,
};
