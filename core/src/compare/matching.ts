import { elementAt } from '../document/elementAt.ts';
import { commonBack, commonFront } from './common.ts';
import { boundedScript, boundedScriptOfNumbers, type Span } from './editScript.ts';
import { isSpaceAt, nextWord, type RunText, type Words, wordsOf } from './tokens.ts';
import { Numbering } from './wordNumbers.ts';

/** Signs of a stretch that holds its place: a line wherever it stands, words right behind a small change. */
const longStretch = 40;
/** Words that a small change takes from either text at most. */
const fewWords = 3;

/** A stretch of one text and of the other. */
export interface Stretch {
  a: number;
  aEnd: number;
  b: number;
  bEnd: number;
}

/**
 * What two texts have in common, from front to back: stretches that begin and end with a word. Long lines
 * that stayed are found first, then what stands before and behind small changes; of what is left the words
 * are matched in the shortest way there is. So a comparison costs about what changed.
 */
export class Matching {
  readonly stretches: Stretch[] = [];
  /** Whether no search for the shortest way was given up. */
  isShortest = true;
  private readonly numbering = new Numbering();

  constructor(
    private readonly a: RunText,
    private readonly b: RunText,
  ) {
    const whole = { a: 0, aEnd: a.text.length, b: 0, bEnd: b.text.length };
    // Pictures are the same by more than their sign.
    if (a.wholes.size > 0 || b.wholes.size > 0) {
      this.matchWords(whole);
      return;
    }
    const gap = { ...whole };
    for (const line of linesInBoth(a.text, b.text)) {
      this.matchAround({ ...gap, aEnd: line.a, bEnd: line.b });
      this.stretches.push(line);
      [gap.a, gap.b] = [line.aEnd, line.bEnd];
    }
    this.matchAround(gap);
  }

  /** Leaves out what both begin and end with, and what is long and stands between small changes. */
  private matchAround({ a, aEnd, b, bEnd }: Stretch): void {
    const [older, newer] = [this.a.text, this.b.text];
    const rest = { a, aEnd, b, bEnd };
    for (;;) {
      const least = Math.min(aEnd - rest.a, bEnd - rest.b);
      const front = commonFront({ text: older, at: rest.a }, { text: newer, at: rest.b }, least);
      const isAll = front === aEnd - rest.a && front === bEnd - rest.b;
      const length = isAll ? front : endOfWords(older, rest.a, rest.a + front) - rest.a;
      this.addSame(rest.a, rest.b, length);
      rest.a += length;
      rest.b += length;
      const next = this.behindChange(rest);
      if (next === null) break;
      this.matchWords({ a: rest.a, aEnd: next.a, b: rest.b, bEnd: next.b });
      [rest.a, rest.b] = [next.a, next.b];
    }
    const most = Math.min(aEnd - rest.a, bEnd - rest.b);
    const back = commonBack({ text: older, at: aEnd }, { text: newer, at: bEnd }, most);
    const behind = aEnd - startOfWord(older, aEnd - back, aEnd);
    this.matchWords({ ...rest, aEnd: aEnd - behind, bEnd: bEnd - behind });
    this.addSame(aEnd - behind, bEnd - behind, behind);
  }

  /** Where both texts go on alike, and for long, behind a few words that changed; null where they do not. */
  private behindChange({ a, aEnd, b, bEnd }: Stretch): { a: number; b: number } | null {
    const [older, newer] = [this.a.text, this.b.text];
    const [ofA, ofB] = [nextWords(older, a), nextWords(newer, b)];
    for (let words = 1; words <= 2 * fewWords; words += 1)
      for (let gone = Math.max(0, words - fewWords); gone <= Math.min(fewWords, words); gone += 1) {
        const [at, there] = [elementAt(ofA, gone), elementAt(ofB, words - gone)];
        if (at + longStretch > aEnd || there + longStretch > bEnd) continue;
        if (older.slice(at, at + longStretch) === newer.slice(there, there + longStretch))
          return { a: at, b: there };
      }
    return null;
  }

  private addSame(a: number, b: number, length: number): void {
    if (length > 0) this.stretches.push({ a, aEnd: a + length, b, bEnd: b + length });
  }

  private matchWords({ a, aEnd, b, bEnd }: Stretch): void {
    const isBlank = ({ text }: RunText, from: number, to: number): boolean =>
      text.slice(from, to).trim() === '';
    if (isBlank(this.a, a, aEnd) || isBlank(this.b, b, bEnd)) return;
    const [older, newer] = [wordsOf(this.a, a, aEnd), wordsOf(this.b, b, bEnd)];
    // One word for another, as most changes are.
    if (older.starts.length === 1 && newer.starts.length === 1 && older.hashes[0] !== newer.hashes[0]) return;
    const { spans, isShortest } = boundedScriptOfNumbers(this.numbering.of(older, newer));
    this.isShortest &&= isShortest;
    for (const { kind, ...span } of spans) if (kind === 'equal') this.addEqual(older, newer, span);
  }

  /** Equal words; where the white space between them differs they are stretches of their own. */
  private addEqual(older: Words, newer: Words, { aStart, aEnd, bStart, bEnd }: Omit<Span, 'kind'>): void {
    const stretch = {
      a: elementAt(older.starts, aStart),
      aEnd: elementAt(older.ends, aEnd - 1),
      b: elementAt(newer.starts, bStart),
      bEnd: elementAt(newer.ends, bEnd - 1),
    };
    const isOne = aEnd - aStart === 1;
    if (isOne || this.a.text.slice(stretch.a, stretch.aEnd) === this.b.text.slice(stretch.b, stretch.bEnd)) {
      this.stretches.push(stretch);
      return;
    }
    const half = (aEnd - aStart) >> 1;
    this.addEqual(older, newer, { aStart, aEnd: aStart + half, bStart, bEnd: bStart + half });
    this.addEqual(older, newer, { aStart: aStart + half, aEnd, bStart: bStart + half, bEnd });
  }
}

/** Where a few words begin that stand at a place of a text and behind it. */
function nextWords(text: string, from: number): number[] {
  const places = [nextWord(text, from)];
  for (let word = 0; word < fewWords; word += 1) places.push(nextWord(text, elementAt(places, word), 1));
  return places;
}

/** Where the words of a stretch end, without the last, which may go on behind it. */
function endOfWords(text: string, from: number, to: number): number {
  let at = to;
  while (at > from && !isSpaceAt(text, at - 1)) at -= 1;
  while (at > from && isSpaceAt(text, at - 1)) at -= 1;
  return at;
}
/** Where the first word of a stretch begins that has white space before it in the stretch. */
function startOfWord(text: string, from: number, to: number): number {
  let at = from;
  while (at < to && !isSpaceAt(text, at)) at += 1;
  while (at < to && isSpaceAt(text, at)) at += 1;
  return at;
}

/** Long lines that both texts have in the same order, from their first word to their last. */
function linesInBoth(older: string, newer: string): Stretch[] {
  const [a, b] = [longLines(older), longLines(newer)];
  if (a.length === 0 || b.length === 0) return [];
  const { spans } = boundedScript(
    a.map(({ text }) => text),
    b.map(({ text }) => text),
  );
  return spans.flatMap(({ kind, aStart, aEnd, bStart }) =>
    kind === 'equal'
      ? a.slice(aStart, aEnd).map(({ at, text }, line) => {
          const there = elementAt(b, bStart + line).at;
          return { a: at, aEnd: at + text.length, b: there, bEnd: there + text.length };
        })
      : [],
  );
}

function longLines(text: string): { at: number; text: string }[] {
  const lines: { at: number; text: string }[] = [];
  if (!text.includes('\n')) return lines;
  let at = 0;
  for (const line of text.split('\n')) {
    const words = line.trim();
    if (words.length >= longStretch)
      lines.push({ at: at + line.length - line.trimStart().length, text: words });
    at += line.length + 1;
  }
  return lines;
}
