import { type Refusal, refuse } from '../document/refusal.ts';
import type { Level, VersionNumber } from '../document/version.ts';
import { formatLabel, numberToCome } from './numbering.ts';
import type { Rulebook } from './rulebook.ts';

/**
 * Refuses a minor level in `whole` and `none`, which have none; and no level at all where there are two to
 * choose from.
 */
export function refuseLevel(rules: Pick<Rulebook, 'numbering'>, level: Level | undefined): Refusal | null {
  if (rules.numbering === 'stepped') {
    if (level !== undefined) return null;
    return refuse(
      'invalid',
      'level-missing',
      'Choose a level: minor makes a draft, major asks for publication.',
    );
  }
  if (level !== 'minor') return null;
  const numbers =
    rules.numbering === 'whole'
      ? 'This library numbers versions 1, 2, 3'
      : 'This library gives versions no numbers';
  return refuse('invalid', 'no-minor-level', `${numbers}; there is no minor level. Choose major.`);
}

/** The level a version gets: the one asked for, else `major`, the only one where it may be left out. */
export const levelOf = (level: Level | undefined): Level => level ?? 'major';

/**
 * What becomes of a version of this level: a draft, one that its approvers are asked about, or a published
 * one.
 */
export type Fate = 'draft' | 'submitted' | 'published';

/** What a version of this level becomes under the rules. */
export function fateOf(rules: Pick<Rulebook, 'approval'>, level: Level): Fate {
  if (level === 'minor') return 'draft';
  return rules.approval.on ? 'submitted' : 'published';
}

/** The labels to come, for the level buttons and ghost points, and what becomes of a major one. */
export interface ToCome {
  /** Null under numbers without a minor level. */
  minor: string | null;
  /** What publication would be numbered, now or once approved. */
  major: string;
  /** The number a version of level major has while it is in approval; null where it is published at once. */
  submittedAs: string | null;
}

/**
 * The labels the next version would get after the highest number of the present era; null where there is none
 * yet.
 */
export function labelsToCome(
  rules: Pick<Rulebook, 'numbering'> & { approval: Pick<Rulebook['approval'], 'on'> },
  highest: VersionNumber | null,
  presentEra: number,
): ToCome {
  const label = (level: Level): string =>
    formatLabel(numberToCome(rules.numbering, highest, level, presentEra), presentEra);
  const minor = rules.numbering === 'stepped' ? label('minor') : null;
  const major = label('major');
  return { minor, major, submittedAs: rules.approval.on ? (minor ?? major) : null };
}
