import type { Rulebook } from './rulebook.ts';
import { maySee, type SightFacts, type Viewer } from './sight.ts';

/** Somebody who looks at a version: with their roles, the version's facts and the rules of one moment. */
export interface Looking {
  viewer: Viewer;
  facts: SightFacts;
  rules: Pick<Rulebook, 'sight' | 'readersSeePast'>;
}

/**
 * Whether somebody who looks back sees a version: only what they saw then, and may see now (docs/rules.md,
 * As of).
 * @param then roles, state, team and rules as they were at the moment looked at
 * @param now the same as they are
 */
export const maySeeAsOf = (then: Looking, now: Looking): boolean =>
  [then, now].every(({ viewer, facts, rules }) => maySee(viewer, facts, rules));
