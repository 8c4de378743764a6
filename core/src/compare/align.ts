import { elementAt } from '../document/elementAt.ts';
import { commonBack, commonFront } from './common.ts';
import { editScript } from './editScript.ts';
import { Numbering } from './wordNumbers.ts';

/** One place in an alignment: both sides, or one only. Indexes into the two lists. */
export interface Aligned {
  a: number | null;
  b: number | null;
}

/**
 * What aligning needs to know of an item: equal keys mean equal items; only items of one family can be a
 * change of one another.
 */
export interface Alignable {
  key: string;
  family: string;
  text: string;
}

/**
 * Share of words two texts must have in common to be shown as one changed text rather than one gone and one
 * new.
 */
const similarEnough = 0.35;
/**
 * Where one item went and one came at the same place, less likeness will do: most such are one sentence
 * reworded.
 */
const similarEnoughAlone = 0.2;

/** Pairs weighed against each other in one gap; in a larger one each item looks only at its neighbourhood. */
const mostPairs = 250_000;

/**
 * Aligns two lists in order: equal items first (the longest common run of them), then in the gaps between
 * those the most similar ones.
 */
export function align(a: readonly Alignable[], b: readonly Alignable[]): Aligned[] {
  const answer: Aligned[] = [];
  let gapA: number[] = [];
  let gapB: number[] = [];
  const closeGap = (): void => {
    answer.push(...alignGap(a, b, gapA, gapB));
    gapA = [];
    gapB = [];
  };
  for (const span of editScript(
    a.map(({ key }) => key),
    b.map(({ key }) => key),
  )) {
    if (span.kind === 'equal') {
      closeGap();
      for (let i = 0; i < span.aEnd - span.aStart; i += 1)
        answer.push({ a: span.aStart + i, b: span.bStart + i });
    } else {
      for (let i = span.aStart; i < span.aEnd; i += 1) gapA.push(i);
      for (let i = span.bStart; i < span.bEnd; i += 1) gapB.push(i);
    }
  }
  closeGap();
  return answer;
}

function alignGap(
  a: readonly Alignable[],
  b: readonly Alignable[],
  gapA: readonly number[],
  gapB: readonly number[],
): Aligned[] {
  if (gapA.length === 0 || gapB.length === 0)
    return [...gapA.map((i) => ({ a: i, b: null })), ...gapB.map((i) => ({ a: null, b: i }))];
  const [i, j] = [elementAt(gapA, 0), elementAt(gapB, 0)];
  const [one, other] = [elementAt(a, i), elementAt(b, j)];
  const isAlone = gapA.length === 1 && gapB.length === 1;
  if (isAlone && one.family === other.family && isMostlyKept(one.text, other.text)) return [{ a: i, b: j }];
  const numbering = new Numbering();
  const bagsA = gapA.map((at) => numbering.bagOf(elementAt(a, at).text));
  const bagsB = gapB.map((at) => numbering.bagOf(elementAt(b, at).text));
  const enough = isAlone ? similarEnoughAlone : similarEnough;
  const score = (x: number, y: number): number => {
    if (elementAt(a, elementAt(gapA, x)).family !== elementAt(b, elementAt(gapB, y)).family) return 0;
    const likeness = similarity(elementAt(bagsA, x), elementAt(bagsB, y));
    return likeness >= enough ? likeness : 0;
  };
  return bestPath(bandOver(gapA.length, gapB.length), score).map((at) => ({
    a: at.a === null ? null : elementAt(gapA, at.a),
    b: at.b === null ? null : elementAt(gapB, at.b),
  }));
}

/**
 * Which items of a gap are weighed against each other: for each older one those newer ones about as far
 * in.
 */
export interface Band {
  older: number;
  newer: number;
  /** First and last newer item that an older one is weighed against. */
  low: (i: number) => number;
  high: (i: number) => number;
  /** The first older item that is weighed against a newer one, or against one behind it. */
  reaching: (j: number) => number;
  /** The most that one older item is weighed against. */
  width: number;
}

/** Every pair where there are few, else a band along the diagonal of about `pairs` in all. */
export function bandOver(older: number, newer: number, pairs = mostPairs): Band {
  const slope = newer / older;
  const isWhole = older * newer <= pairs;
  // Wide enough that one step along the older side does not leave it.
  const reach = isWhole ? newer : Math.max(Math.ceil(pairs / older / 2), Math.ceil(slope) + 1);
  return {
    older,
    newer,
    low: (i) => Math.max(0, Math.ceil(i * slope - reach)),
    high: (i) => Math.min(newer - 1, Math.floor(i * slope + reach)),
    reaching: (j) => Math.max(0, Math.ceil((j - reach) / slope)),
    width: Math.min(newer, 2 * reach + 1),
  };
}

/**
 * The order-keeping set of pairs within a band with the highest sum of scores, and what stands alone between
 * them (dynamic programming; time and memory of the band, not of all pairs).
 */
export function bestPath(band: Band, score: (i: number, j: number) => number): Aligned[] {
  const { older, newer, low, high, reaching, width } = band;
  const scores = new Float64Array(older * width);
  const sums = new Float64Array(older * width);
  const at = (i: number, j: number): number => i * width + j - low(i);
  // Before its band an item has what it has from the band's begin on; behind it, what the next item has.
  const sum = (from: number, j: number): number => {
    let i = from;
    if (i < older && j > high(i)) i = Math.max(from, reaching(j));
    // The quotient may be a hair too small.
    while (i < older && j > high(i)) i += 1;
    return i >= older || j >= newer ? 0 : elementAt(sums, at(i, Math.max(j, low(i))));
  };
  for (let i = older - 1; i >= 0; i -= 1) {
    for (let j = high(i); j >= low(i); j -= 1) {
      const own = score(i, j);
      scores[at(i, j)] = own;
      const right = j < high(i) ? elementAt(sums, at(i, j + 1)) : sum(i + 1, j + 1);
      sums[at(i, j)] = Math.max(sum(i + 1, j), right, own > 0 ? own + sum(i + 1, j + 1) : 0);
    }
  }
  const answer: Aligned[] = [];
  let i = 0;
  let j = 0;
  while (i < older || j < newer) {
    const isWeighed = i < older && j < newer && j >= low(i) && j <= high(i);
    const own = isWeighed ? elementAt(scores, at(i, j)) : 0;
    if (own > 0 && sum(i, j) === own + sum(i + 1, j + 1)) {
      answer.push({ a: i, b: j });
      i += 1;
      j += 1;
    } else if (i < older && (j >= newer || sum(i, j) === sum(i + 1, j))) {
      answer.push({ a: i, b: null });
      i += 1;
    } else {
      answer.push({ a: null, b: j });
      j += 1;
    }
  }
  return answer;
}

/**
 * Dice's coefficient over two bags of words, in rising order: 0 nothing, 1 everything in common (L. R. Dice,
 * Ecology 26 (1945)).
 */
function similarity(a: Int32Array, b: Int32Array): number {
  if (a.length === 0 || b.length === 0) return a.length === b.length ? 1 : 0;
  let [common, i, j] = [0, 0, 0];
  while (i < a.length && j < b.length) {
    const [one, other] = [a[i] as number, b[j] as number];
    if (one === other) common += 1;
    if (one <= other) i += 1;
    if (other <= one) j += 1;
  }
  return (2 * common) / (a.length + b.length);
}

/** Whether two texts begin and end with half of the longer of them: they are alike without counting words. */
function isMostlyKept(a: string, b: string): boolean {
  const least = Math.min(a.length, b.length);
  const front = commonFront({ text: a, at: 0 }, { text: b, at: 0 }, least);
  const back = commonBack({ text: a, at: a.length }, { text: b, at: b.length }, least - front);
  return 2 * (front + back) >= Math.max(a.length, b.length);
}
