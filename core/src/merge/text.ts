import { tokenize } from '../compare/words.ts';
import { threeWay } from './threeWay.ts';

/**
 * A stretch of a merge as a person looks at it, each side as pieces (lines with their endings, or blocks). `words`: both sides changed the
 * same lines, but other words of them, and `merged` holds both changes.
 */
export interface MergeRegion {
  kind: 'same' | 'theirs' | 'yours' | 'both' | 'words' | 'conflict';
  base: string[];
  theirs: string[];
  yours: string[];
  /** What the region becomes unless somebody chooses; null where that must be chosen. */
  merged: string[] | null;
  /** Why yours cannot be taken over, where it cannot. */
  yoursStays?: string;
}

/** What may be chosen for a region: one side, both one after the other, or what it was. */
export const mergeChoices = ['theirs', 'yours', 'both', 'base'] as const;
export type MergeChoice = (typeof mergeChoices)[number];
/** What was chosen, by the region's index. */
export type MergeChoices = Readonly<Record<number, MergeChoice>>;

/** Lines with their endings; joined they are the text again. */
export const linesOf = (text: string): string[] => text.match(/[^\n]*\n|[^\n]+$/g) ?? [];

/** Merges two texts changed from one base by lines, and by words inside lines that both changed. */
export function mergeText(base: string, theirs: string, yours: string): MergeRegion[] {
  const [a, b, c] = [linesOf(base), linesOf(theirs), linesOf(yours)];
  return threeWay(a, b, c).map(({ kind, ...part }) => {
    const sides = { base: a.slice(part.base.start, part.base.end), theirs: b.slice(part.theirs.start, part.theirs.end), yours: c.slice(part.yours.start, part.yours.end) };
    if (kind !== 'conflict') return { kind, ...sides, merged: kind === 'yours' ? sides.yours : sides.theirs };
    const merged = mergeWords(sides.base.join(''), sides.theirs.join(''), sides.yours.join(''));
    return merged === null ? { kind, ...sides, merged } : { kind: 'words', ...sides, merged: linesOf(merged) };
  });
}

/** Two changes of the same words of a text put together; null where they overlap, or where one side took all of it away. */
export function mergeWords(base: string, theirs: string, yours: string): string | null {
  if ([base, theirs, yours].some((text) => text.trim() === '')) return null;
  const [a, b, c] = [tokenize(base), tokenize(theirs), tokenize(yours)];
  const regions = threeWay(a, b, c);
  if (regions.some(({ kind }) => kind === 'conflict')) return null;
  return regions.map((region) => (region.kind === 'yours' ? c.slice(region.yours.start, region.yours.end) : b.slice(region.theirs.start, region.theirs.end)).join('')).join('');
}

/**
 * The pieces of a merge with what was chosen for its regions, by index.
 * @param ended makes theirs ready for being followed by yours, where both are chosen
 * @returns null where a conflict has no choice
 */
export function resolve(regions: readonly MergeRegion[], choices: MergeChoices, ended: (pieces: readonly string[]) => readonly string[] = endedLines): string[] | null {
  const pieces: string[] = [];
  for (const [index, region] of regions.entries()) {
    const choice = choices[index];
    const chosen = choice === undefined ? region.merged : choice === 'both' ? [...ended(region.theirs), ...region.yours] : region[choice];
    if (chosen === null) return null;
    pieces.push(...chosen);
  }
  return pieces;
}

/** The last line of a text may lack its ending; something follows it now. */
const endedLines = (lines: readonly string[]): string[] => lines.map((line, index) => (index === lines.length - 1 && !line.endsWith('\n') ? `${line}\n` : line));
