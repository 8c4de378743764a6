import fc from 'fast-check';
import { bandOver, bestPath } from './align.ts';

/** The highest sum by trying every order-keeping set of pairs: the plain recursion, for small gaps. */
function best(older: number, newer: number, score: (i: number, j: number) => number): number {
  const known = new Map<string, number>();
  const from = (i: number, j: number): number => {
    if (i >= older || j >= newer) return 0;
    const key = `${i} ${j}`;
    const seen = known.get(key);
    if (seen !== undefined) return seen;
    const found = Math.max(from(i + 1, j), from(i, j + 1), score(i, j) + from(i + 1, j + 1));
    known.set(key, found);
    return found;
  };
  return from(0, 0);
}

test('the pairs are the best there are in the band, in order, and every item stands once', () => {
  const gap = fc.record({
    older: fc.integer({ min: 1, max: 14 }),
    newer: fc.integer({ min: 1, max: 14 }),
    pairs: fc.integer({ min: 1, max: 60 }),
    seed: fc.array(fc.integer({ min: 0, max: 4 }), { minLength: 196, maxLength: 196 }),
  });
  fc.assert(
    fc.property(gap, ({ older, newer, pairs, seed }) => {
      const band = bandOver(older, newer, pairs);
      const score = (i: number, j: number): number => seed[i * 14 + j] ?? 0;
      const path = bestPath(band, score);
      expect(path.flatMap(({ a }) => (a === null ? [] : [a]))).toEqual(
        Array.from({ length: older }, (_, i) => i),
      );
      expect(path.flatMap(({ b }) => (b === null ? [] : [b]))).toEqual(
        Array.from({ length: newer }, (_, j) => j),
      );
      const sum = path.reduce((so, { a, b }) => so + (a === null || b === null ? 0 : score(a, b)), 0);
      const within = (i: number, j: number): number =>
        j >= band.low(i) && j <= band.high(i) ? score(i, j) : 0;
      expect(sum).toBe(best(older, newer, within));
    }),
    { numRuns: 500 },
  );
});

test('what is weighed and kept grows with the items of a gap, not with their pairs', () => {
  for (const [older, newer] of [
    [9_000, 9_000],
    [9_000, 100],
    [100, 9_000],
  ] as const) {
    const band = bandOver(older, newer, 20_000);
    expect(older * band.width).toBeLessThan(8 * (older + newer) + 48_000);
    let weighed = 0;
    const path = bestPath(band, () => {
      weighed += 1;
      return 0;
    });
    expect(weighed).toBeLessThanOrEqual(older * band.width);
    expect(path).toHaveLength(older + newer);
  }
});
