import { diffArrays } from 'diff';
import fc from 'fast-check';
import { editCount, editScript, type Span } from './editScript.ts';

/** What the script makes of the older sequence, taking inserted elements from the newer one. */
function applied<T>(spans: readonly Span[], a: readonly T[], b: readonly T[]): T[] {
  return spans.flatMap((span) => {
    if (span.kind === 'deleted') return [];
    return span.kind === 'equal' ? a.slice(span.aStart, span.aEnd) : b.slice(span.bStart, span.bEnd);
  });
}

/** Fewest edits by the textbook recurrence for the longest common subsequence. */
function fewestEdits<T>(a: readonly T[], b: readonly T[]): number {
  const length = Array.from({ length: a.length + 1 }, () => new Array<number>(b.length + 1).fill(0));
  for (let i = a.length - 1; i >= 0; i -= 1)
    for (let j = b.length - 1; j >= 0; j -= 1) {
      const row = length[i] as number[];
      const below = length[i + 1] as number[];
      row[j] =
        a[i] === b[j] ? 1 + (below[j + 1] as number) : Math.max(below[j] as number, row[j + 1] as number);
    }
  return a.length + b.length - 2 * (length[0]?.[0] ?? 0);
}

test('the worked example of Myers 1986 (figure 1): ABCABBA to CBABAC takes 5 edits', () => {
  const [a, b] = [[...'ABCABBA'], [...'CBABAC']];
  const spans = editScript(a, b);
  expect(editCount(spans)).toBe(5);
  expect(applied(spans, a, b)).toEqual(b);
});

const words = fc.array(
  fc.constantFrom('the', 'line', 'is', 'opened', 'after', 'wind', 'not', ' ', '.', 'Tower'),
  { maxLength: 60 },
);

test('applied to the older text it gives the newer, with the fewest edits there are', () => {
  fc.assert(
    fc.property(words, words, (a, b) => {
      const spans = editScript(a, b);
      expect(applied(spans, a, b)).toEqual(b);
      expect(editCount(spans)).toBe(fewestEdits(a, b));
    }),
    { numRuns: 120 },
  );
});

test('its edit count is never larger than that of an independent library (npm "diff")', () => {
  fc.assert(
    fc.property(words, words, (a, b) => {
      const theirs = diffArrays(a, b)
        .filter((part) => part.added || part.removed)
        .reduce((sum, part) => sum + part.value.length, 0);
      expect(editCount(editScript(a, b))).toBeLessThanOrEqual(theirs);
    }),
    { numRuns: 120 },
  );
});

test('spans follow one another without gap and cover both sides', () => {
  fc.assert(
    fc.property(words, words, (a, b) => {
      let [i, j] = [0, 0];
      for (const span of editScript(a, b)) {
        expect([span.aStart, span.bStart]).toEqual([i, j]);
        if (span.kind === 'equal')
          expect(a.slice(span.aStart, span.aEnd)).toEqual(b.slice(span.bStart, span.bEnd));
        [i, j] = [span.aEnd, span.bEnd];
      }
      expect([i, j]).toEqual([a.length, b.length]);
    }),
  );
});

test('two wholly different long texts end in time and still give the newer one', () => {
  const a = Array.from({ length: 4_000 }, (_, i) => `a${i}`);
  const b = Array.from({ length: 4_000 }, (_, i) => `b${i}`);
  expect(applied(editScript(a, b), a, b)).toEqual(b);
});
