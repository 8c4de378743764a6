import { elementAt } from '../document/elementAt.ts';
import { editScript } from './editScript.ts';
import { tokenize } from './words.ts';

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
const similarEnough = 0.45;
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
  const bagsA = gapA.map((i) => bag(elementAt(a, i).text));
  const bagsB = gapB.map((i) => bag(elementAt(b, i).text));
  const window = gapA.length * gapB.length > mostPairs ? Math.ceil(mostPairs / gapA.length / 2) : Infinity;
  const slope = gapB.length / gapA.length;
  const score = (i: number, j: number): number => {
    if (Math.abs(i * slope - j) > window) return 0;
    if (elementAt(a, elementAt(gapA, i)).family !== elementAt(b, elementAt(gapB, j)).family) return 0;
    const likeness = similarity(elementAt(bagsA, i), elementAt(bagsB, j));
    return likeness >= (gapA.length === 1 && gapB.length === 1 ? similarEnoughAlone : similarEnough)
      ? likeness
      : 0;
  };
  return bestPath(gapA, gapB, score);
}

/** The order-keeping set of pairs with the highest sum of scores (dynamic programming over the gap). */
function bestPath(
  gapA: readonly number[],
  gapB: readonly number[],
  score: (i: number, j: number) => number,
): Aligned[] {
  const columns = gapB.length + 1;
  const sums = new Float64Array((gapA.length + 1) * columns);
  const pair = new Float64Array(gapA.length * gapB.length);
  const sum = (i: number, j: number): number => elementAt(sums, i * columns + j);
  for (let i = gapA.length - 1; i >= 0; i -= 1) {
    for (let j = gapB.length - 1; j >= 0; j -= 1) {
      const own = score(i, j);
      pair[i * gapB.length + j] = own;
      sums[i * columns + j] = Math.max(sum(i + 1, j), sum(i, j + 1), own > 0 ? own + sum(i + 1, j + 1) : 0);
    }
  }
  const answer: Aligned[] = [];
  let i = 0;
  let j = 0;
  while (i < gapA.length || j < gapB.length) {
    const own = i < gapA.length && j < gapB.length ? elementAt(pair, i * gapB.length + j) : 0;
    if (own > 0 && sum(i, j) === own + sum(i + 1, j + 1)) {
      answer.push({ a: elementAt(gapA, i), b: elementAt(gapB, j) });
      i += 1;
      j += 1;
    } else if (i < gapA.length && (j >= gapB.length || sum(i, j) === sum(i + 1, j))) {
      answer.push({ a: elementAt(gapA, i), b: null });
      i += 1;
    } else {
      answer.push({ a: null, b: elementAt(gapB, j) });
      j += 1;
    }
  }
  return answer;
}

interface Bag {
  counts: Map<string, number>;
  size: number;
}

function bag(text: string): Bag {
  const words = tokenize(text).filter((token) => /[\p{L}\p{N}]/u.test(token));
  const counts = new Map<string, number>();
  for (const word of words) counts.set(word, (counts.get(word) ?? 0) + 1);
  return { counts, size: words.length };
}

/**
 * Dice's coefficient over the two bags of words: 0 nothing, 1 everything in common (L. R. Dice, Ecology 26
 * (1945)).
 */
function similarity(a: Bag, b: Bag): number {
  if (a.size === 0 || b.size === 0) return a.size === b.size ? 1 : 0;
  let common = 0;
  const [small, large] = a.counts.size < b.counts.size ? [a, b] : [b, a];
  for (const [word, count] of small.counts) common += Math.min(count, large.counts.get(word) ?? 0);
  return (2 * common) / (a.size + b.size);
}
