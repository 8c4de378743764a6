import { completeRulebook, type Rulebook, type RulebookChoices, type SightRole } from './rulebook.ts';

type Stored = Record<string, unknown>;

/** Steps of sight, as they were once stored, each taking in the roles of those after it. */
const rolesOfStep: Record<string, SightRole[]> = {
  members: ['reader', 'auditor', 'author', 'approver'],
  authors: ['author', 'approver'],
  approvers: ['approver'],
  team: [],
};

/** Sight was a step for each state; it is a set of roles. */
function stepsToRoles(stored: Stored): Stored {
  const sight = (stored['sight'] ?? {}) as Stored;
  const asRoles = (value: unknown): unknown =>
    typeof value === 'string' ? (rolesOfStep[value] ?? []) : value;
  return {
    ...stored,
    sight: Object.fromEntries(Object.entries(sight).map(([state, value]) => [state, asRoles(value)])),
  };
}

/**
 * Drafts outlived a number of publications; they stay with the version they led to. Where that would let more
 * go than before, they all stay: no limit gets smaller by itself.
 */
function outlivingToStaying(stored: Stored): Stored {
  const { draftsOutlive, draftsPerMajor, ...keep } = (stored['keep'] ?? {}) as Stored;
  if (draftsOutlive === undefined && draftsPerMajor === undefined) return stored;
  const drafts = {
    stay: stayFor(draftsOutlive as number | null, keep['published'] as number | null),
    newest: draftsPerMajor,
  };
  return { ...stored, keep: { ...keep, drafts } };
}

function stayFor(publications: number | null, published: number | null): string {
  if (publications === 0) return 'untilPublished';
  const losesNothing = published === null || (publications !== null && published >= publications - 1);
  return publications !== null && losesNothing ? 'withTheirVersion' : 'all';
}

/**
 * Every change there was of the form in which rules are stored, oldest first; each leaves the present form
 * alone.
 */
const upgrades = [stepsToRoles, outlivingToStaying];

/**
 * The rules a library has stored, in whatever form they once were: brought to the present one, and what did
 * not exist then filled with the defaults.
 */
export function readStoredRulebook(stored: unknown): Rulebook {
  const present = upgrades.reduce((rules, upgrade) => upgrade(rules), (stored ?? {}) as Stored);
  return completeRulebook(present as RulebookChoices);
}
