import { elementAt } from '../document/elementAt.ts';
import type { TextBlock } from '../files/reading.ts';
import { textOfRuns } from '../files/reading.ts';
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
/** Share that a text must have kept for its changes to be told word by word. */
const keptEnough = 0.1;

/** Lines that hold their place: any with a word; in prose, where a paragraph may end with any, of four. */
const anchors = { prose: /(?:\S+\s+){3}\S/, other: /[\p{L}\p{N}]/u };
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
  const anchor = isProse(a) && isProse(b) ? anchors.prose : anchors.other;
  const keys = (lines: readonly string[], side: string): string[] =>
    lines.map((line, at) => (anchor.test(line) ? line : `\u0000${side}${at}`));
  const { spans, isShortest } = boundedScript(keys(a, 'a'), keys(b, 'b'));
  const stretches: LineStretch[] = [];
  let isAllShortest = isShortest;
  let gap = { aStart: 0, aEnd: 0, bStart: 0, bEnd: 0 };
  const addLines = (aStart: number, bStart: number, count: number): void => {
    const places = Array.from({ length: count }, (_, at) => ({ a: aStart + at, b: bStart + at }));
    if (count > 0) stretches.push({ kind: 'lines', places });
  };
  const close = (): void => {
    const { aStart, aEnd, bStart, bEnd } = gap;
    const least = Math.min(aEnd - aStart, bEnd - bStart);
    let front = 0;
    while (front < least && a[aStart + front] === b[bStart + front]) front += 1;
    let back = 0;
    while (back < least - front && a[aEnd - 1 - back] === b[bEnd - 1 - back]) back += 1;
    addLines(aStart, bStart, front);
    if (aEnd - aStart > front + back || bEnd - bStart > front + back) {
      const inner = { aStart: aStart + front, bStart: bStart + front };
      const found = stretchOf(a.slice(inner.aStart, aEnd - back), b.slice(inner.bStart, bEnd - back), inner);
      stretches.push(found.stretch);
      isAllShortest &&= found.isShortest;
    }
    addLines(aEnd - back, bEnd - back, back);
  };
  for (const span of spans) {
    if (span.kind !== 'equal') {
      gap = { ...gap, aEnd: span.aEnd, bEnd: span.bEnd };
      continue;
    }
    close();
    addLines(span.aStart, span.bStart, span.aEnd - span.aStart);
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
  const words = compareWords([{ text: a.join('\n') }], [{ text: b.join('\n') }]);
  const changed = words.wordsDeleted + words.wordsInserted;
  const isTold = places === null ? words.kept >= keptEnough : changed < changedByLines(a, b, places);
  return isTold
    ? { stretch: { kind: 'words', lines: linesOf(words) }, isShortest: words.isShortest }
    : { stretch: byLines(), isShortest: true };
}

const alignedLines = (a: readonly string[], b: readonly string[]): Aligned[] => {
  const items = (lines: readonly string[]) => lines.map((text) => ({ key: text, family: 'text', text }));
  return align(items(a), items(b));
};
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
    if (run.status === 'deleted' || !run.text.includes('\n')) {
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
