import { type RuleChange, rulebookDifference, type Rulebook, withValues } from '@polychron/core';
import { create } from 'zustand';
import { persist } from 'zustand/middleware';

/** Rules that somebody chose for a library and has not applied. */
interface Proposal {
  values: Pick<RuleChange, 'rule' | 'to'>[];
  reason: string;
}

interface Proposals {
  /** By whose they are and the library. */
  kept: Record<string, Proposal>;
  keep(owner: string, proposal: Proposal | null): void;
}

/** What was chosen in a Rulebook and not applied stays on this device while one looks elsewhere. */
export const useProposals = create<Proposals>()(
  persist(
    (set) => ({
      kept: {},
      keep: (owner, proposal) =>
        set(({ kept: { [owner]: _, ...others } }) => ({
          kept: proposal ? { ...others, [owner]: proposal } : others,
        })),
    }),
    { name: 'polychron-proposals' },
  ),
);

/** Rules with what was chosen laid over them; as they are where nothing of it differs. */
export const laidOver = (rules: Rulebook, proposal: Proposal | undefined): Rulebook =>
  proposal ? withValues(rules, proposal.values) : rules;

/** What is kept of a choice of rules; null where it changes nothing. */
export function proposalOf(before: Rulebook, rules: Rulebook, reason: string): Proposal | null {
  const values = rulebookDifference(before, rules).map(({ rule, to }) => ({ rule, to }));
  return values.length > 0 ? { values, reason } : null;
}
