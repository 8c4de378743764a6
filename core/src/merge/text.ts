import { tokenize } from '../compare/tokens.ts';
import { threeWay } from './threeWay.ts';

/**
 * A stretch of a merge as a person looks at it, each side as pieces (lines with their endings, or blocks).
 * `words`: both sides changed the same lines, but other words of them, and `merged` holds both changes.
 */
export interface MergeRegion {
  kind: 'same' | 'present' | 'mine' | 'both' | 'words' | 'conflict';
  base: string[];
  present: string[];
  mine: string[];
  /** What the region becomes unless somebody chooses; null where that must be chosen. */
  merged: string[] | null;
  /** Where in a table it stands: its row by the first cell, and its column. */
  place?: string;
  /** Parts that hold the pictures of each side, where there are any. */
  pictures?: Record<'base' | 'present' | 'mine', string[]>;
  /** The sides of a conflict have the same words, formatted differently. */
  formattingOnly?: boolean;
}

/** What may be chosen for a region: one side, both one after the other, or what it was. */
export const mergeChoices = ['present', 'mine', 'both', 'base'] as const;
export type MergeChoice = (typeof mergeChoices)[number];
/** What was chosen, by the region's index. */
export type MergeChoices = Readonly<Record<number, MergeChoice>>;

/** Lines with their endings; joined they are the text again. */
export const linesOf = (text: string): string[] => text.match(/[^\r\n]*(?:\r\n|\n|\r)|[^\r\n]+$/g) ?? [];

/** A line as it is compared: how it ends makes no difference. */
const said = (line: string): string => line.replace(/\r\n?$/, '\n');

/** Merges two texts changed from one base by lines, and by words inside lines that both changed. */
export function mergeText(base: string, present: string, mine: string): MergeRegion[] {
  const [a, b, c] = [linesOf(base), linesOf(present), linesOf(mine)];
  return threeWay(a.map(said), b.map(said), c.map(said)).map(({ kind, ...part }) => {
    const sides = {
      base: a.slice(part.base.start, part.base.end),
      present: b.slice(part.present.start, part.present.end),
      mine: c.slice(part.mine.start, part.mine.end),
    };
    if (kind !== 'conflict') return { kind, ...sides, merged: kind === 'mine' ? sides.mine : sides.present };
    const merged = mergeWords(sides.base.join(''), sides.present.join(''), sides.mine.join(''));
    return merged === null
      ? { kind, ...sides, merged }
      : { kind: 'words', ...sides, merged: linesOf(merged) };
  });
}

/**
 * Two changes of the same words of a text put together; null where they overlap, or where one side took all
 * of it away.
 */
export function mergeWords(base: string, present: string, mine: string): string | null {
  if ([base, present, mine].some((text) => text.trim() === '')) return null;
  const [a, b, c] = [tokenize(base), tokenize(present), tokenize(mine)];
  const regions = threeWay(a, b, c);
  if (regions.some(({ kind }) => kind === 'conflict')) return null;
  return regions
    .map((region) =>
      (region.kind === 'mine'
        ? c.slice(region.mine.start, region.mine.end)
        : b.slice(region.present.start, region.present.end)
      ).join(''),
    )
    .join('');
}

/**
 * The pieces of a merge with what was chosen for its regions, by index.
 * @param ended makes present ready for being followed by mine, where both are chosen
 * @returns null where a conflict has no choice
 */
export function resolve(
  regions: readonly MergeRegion[],
  choices: MergeChoices,
  ended: (pieces: readonly string[]) => readonly string[] = endedLines,
): string[] | null {
  const pieces: string[] = [];
  for (const [index, region] of regions.entries()) {
    const chosen = chosenText(region, choices[index], ended);
    if (chosen === null) return null;
    pieces.push(...chosen);
  }
  return pieces;
}

function chosenText(
  region: MergeRegion,
  choice: MergeChoice | undefined,
  ended: (pieces: readonly string[]) => readonly string[],
): readonly string[] | null {
  if (choice === undefined) return region.merged;
  return choice === 'both' ? [...ended(region.present), ...region.mine] : region[choice];
}

/** The last line of a text may lack its ending; something follows it now. */
const endedLines = (lines: readonly string[]): string[] =>
  lines.map((line, index) => (index === lines.length - 1 && !line.endsWith('\n') ? `${line}\n` : line));
