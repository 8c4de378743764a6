import { elementAt } from '../document/elementAt.ts';
import type { TextBlock } from '../files/reading.ts';
import { countWords, textOfRuns } from '../files/reading.ts';
import { align, type Aligned } from './align.ts';
import { boundedScript } from './editScript.ts';
import { type ComparedRun, compareWords, type WordComparison } from './words.ts';

/**
 * A stretch of two texts: lines that are the same, lines laid beside each other, or words run over line
 * ends.
 */
export type LineStretch = { kind: 'lines'; places: Aligned[] } | { kind: 'words'; lines: WovenLine[] };

/** A line of the newer text, with what the older one had there. */
export interface WovenLine {
  runs: ComparedRun[];
  /** The older text has no line end after it. */
  joined: boolean;
}

/** Lines of both sides that are laid beside each other in every way that is tried; of more, words decide. */
const mostPairs = 2_500;
/** Share of its words that a text must have kept for its changes to be told word by word. */
const keptEnough = 0.2;

/** In prose the end of a paragraph may be any word: lines of fewer hold nothing in place. */
const wordsOfAnAnchor = 4;
/** Characters that lines have on average where a text is wrapped; those of tables and lists have fewer. */
const wrappedLine = 40;

function isProse(lines: readonly string[]): boolean {
  const filled = lines.filter((line) => line.trim() !== '');
  return filled.reduce((sum, line) => sum + line.length, 0) >= wrappedLine * filled.length;
}

/**
 * Lays two texts beside each other. Where lines were wrapped anew their words are compared over the line
 * ends: what only moved to another line is no change.
 */
export function stretchesOf(
  older: readonly TextBlock[],
  newer: readonly TextBlock[],
): { stretches: LineStretch[]; isShortest: boolean } {
  const [a, b] = [older, newer].map((lines) => lines.map(({ runs }) => textOfRuns(runs))) as [
    string[],
    string[],
  ];
  const least = isProse(a) && isProse(b) ? wordsOfAnAnchor : 1;
  const keys = (lines: readonly string[], side: string): string[] =>
    lines.map((line, at) => (countWords(line) >= least ? line : `\u0000${side}${at}`));
  const { spans, isShortest } = boundedScript(keys(a, 'a'), keys(b, 'b'));
  const stretches: LineStretch[] = [];
  let isAllShortest = isShortest;
  let gap = { aStart: 0, aEnd: 0, bStart: 0, bEnd: 0 };
  const close = (): void => {
    if (gap.aStart === gap.aEnd && gap.bStart === gap.bEnd) return;
    const found = stretchOf(a.slice(gap.aStart, gap.aEnd), b.slice(gap.bStart, gap.bEnd), gap);
    stretches.push(found.stretch);
    isAllShortest &&= found.isShortest;
  };
  for (const span of spans) {
    if (span.kind !== 'equal') {
      gap = { ...gap, aEnd: span.aEnd, bEnd: span.bEnd };
      continue;
    }
    close();
    const places = Array.from({ length: span.aEnd - span.aStart }, (_, at) => ({
      a: span.aStart + at,
      b: span.bStart + at,
    }));
    stretches.push({ kind: 'lines', places });
    gap = { aStart: span.aEnd, aEnd: span.aEnd, bStart: span.bEnd, bEnd: span.bEnd };
  }
  close();
  return { stretches, isShortest: isAllShortest };
}

/** What became of lines between two that stayed. */
function stretchOf(
  a: readonly string[],
  b: readonly string[],
  { aStart, bStart }: { aStart: number; bStart: number },
): { stretch: LineStretch; isShortest: boolean } {
  const oneSided = (): Aligned[] => [
    ...a.map((_, at) => ({ a: aStart + at, b: null })),
    ...b.map((_, at) => ({ a: null, b: bStart + at })),
  ];
  if (a.length === 0 || b.length === 0)
    return { stretch: { kind: 'lines', places: oneSided() }, isShortest: true };
  const isSmall = a.length * b.length <= mostPairs;
  const places = isSmall ? alignedLines(a, b) : null;
  const byLines = (): LineStretch => ({
    kind: 'lines',
    places:
      places?.map((place) => ({
        a: place.a === null ? null : aStart + place.a,
        b: place.b === null ? null : bStart + place.b,
      })) ?? oneSided(),
  });
  if (a.length === 1 && b.length === 1) return { stretch: byLines(), isShortest: true };
  if (!isSmall && inCommon(a, b) < keptEnough) return { stretch: byLines(), isShortest: true };
  const words = compareWords([{ text: a.join('\n') }], [{ text: b.join('\n') }], 'overLineEnds');
  const changed = words.wordsDeleted + words.wordsInserted;
  return places === null || changed < changedByLines(a, b, places)
    ? { stretch: { kind: 'words', lines: linesOf(words) }, isShortest: words.isShortest }
    : { stretch: byLines(), isShortest: true };
}

const alignedLines = (a: readonly string[], b: readonly string[]): Aligned[] => {
  const items = (lines: readonly string[]) => lines.map((text) => ({ key: text, family: 'text', text }));
  return align(items(a), items(b));
};
/** Share of the words of the longer of two texts that both have, wherever they stand. */
function inCommon(a: readonly string[], b: readonly string[]): number {
  const counts = new Map<string, number>();
  const [older, newer] = [a, b].map((lines) => lines.join(' ').split(/\s+/)) as [string[], string[]];
  for (const word of older) counts.set(word, (counts.get(word) ?? 0) + 1);
  let common = 0;
  for (const word of newer) {
    const left = counts.get(word) ?? 0;
    if (left === 0) continue;
    common += 1;
    counts.set(word, left - 1);
  }
  return common / Math.max(1, older.length, newer.length);
}

/** Words that a comparison line by line tells as changed. */
function changedByLines(a: readonly string[], b: readonly string[], places: readonly Aligned[]): number {
  return places.reduce((sum, place) => {
    const older = place.a === null ? [] : [{ text: elementAt(a, place.a) }];
    const newer = place.b === null ? [] : [{ text: elementAt(b, place.b) }];
    const { wordsDeleted, wordsInserted } = compareWords(older, newer);
    return sum + wordsDeleted + wordsInserted;
  }, 0);
}

/** Words of a comparison as lines of the newer text. */
function linesOf({ runs }: WordComparison): WovenLine[] {
  const lines: WovenLine[] = [];
  let line: ComparedRun[] = [];
  for (const run of runs) {
    if (run.status === 'deleted') {
      line.push(run);
      continue;
    }
    const [first = '', ...rest] = run.text.split('\n');
    if (first !== '') line.push({ ...run, text: first });
    for (const text of rest) {
      lines.push({ runs: line, joined: run.status === 'inserted' });
      line = text === '' ? [] : [{ ...run, text }];
    }
  }
  lines.push({ runs: line, joined: false });
  return lines;
}
