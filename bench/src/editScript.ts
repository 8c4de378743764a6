import { performance } from 'node:perf_hooks';
import { diffArrays } from 'diff';
import { editCount, editScript, tokenize } from '@polychron/core';

/**
 * The word-level compare beside the npm library "diff", on the same texts in one run: ratios of medians, and
 * the edits each found.
 */
const words = [
  'the',
  'line',
  'is',
  'opened',
  'after',
  'wind',
  'Tower',
  'carrier',
  'shift',
  'leader',
  'reads',
  'both',
  'limits',
  'below',
  'governs',
  'span',
];
let seed = 7;
const random = (below: number): number => {
  seed = (seed * 1103515245 + 12345) % 2147483648;
  return seed % below;
};
const text = (length: number): string[] =>
  tokenize(Array.from({ length }, () => words[random(words.length)]).join(' '));
const edited = (tokens: readonly string[], changes: number): string[] => {
  const copy = [...tokens];
  for (let n = 0; n < changes; n += 1) copy.splice(random(copy.length), random(3), `new${n}`);
  return copy;
};

function median(run: () => unknown): number {
  run();
  const times = Array.from({ length: 7 }, () => {
    const start = performance.now();
    run();
    return performance.now() - start;
  });
  return times.sort((a, b) => a - b)[3] as number;
}

console.log('words  changes  ours/diff  our edits  their edits');
for (const [length, changes] of [
  [200, 10],
  [2000, 50],
  [2000, 500],
  [10_000, 200],
] as const) {
  const older = text(length);
  const newer = edited(older, changes);
  const ratio = median(() => editScript(older, newer)) / median(() => diffArrays(older, newer));
  const theirs = diffArrays(older, newer)
    .filter((part) => part.added || part.removed)
    .reduce((sum, part) => sum + part.value.length, 0);
  console.log(
    `${length}  ${changes}  ${ratio.toFixed(2)}  ${editCount(editScript(older, newer))}  ${theirs}`,
  );
}
