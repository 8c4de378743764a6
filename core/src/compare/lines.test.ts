import { execFileSync } from 'node:child_process';
import fc from 'fast-check';
import { type Reading } from '../files/reading.ts';
import { readText } from '../files/text/readText.ts';
import { compare, type Comparison } from './compare.ts';
import { boundedScript, editCount } from './editScript.ts';

const side = (text: string) => ({
  reading: readText(new TextEncoder().encode(text)) as Reading,
  fields: { title: '' },
});
const compared = (older: string, newer: string): Comparison => compare(side(older), side(newer));

/** One side of a comparison of texts as a text again. */
function textOf({ parts }: Comparison, of: 'older' | 'newer'): string {
  const away = of === 'older' ? ['inserted', 'moved'] : ['deleted', 'movedAway'];
  const lines = (parts.find(({ where }) => where === 'body')?.blocks ?? []).flatMap((block) => {
    if (!('runs' in block) || away.includes(block.status)) return [];
    const words = block.runs.filter(({ status }) => !away.includes(status)).map(({ text }) => text);
    const isOpen = of === 'older' && block.joined;
    return [`${words.join('')}${isOpen ? '' : '\n'}`];
  });
  return lines.join('').replace(/\n$/, '');
}

/** Lines broken anew at spaces by GNU fold, a program of its own. */
const folded = (text: string, width: number): string =>
  execFileSync('fold', ['-s', '-w', String(width)], { input: text, encoding: 'utf8' });

const sentences = [
  'The shift leader reads both anemometers for ten minutes before the line is opened in the morning.',
  'Above fourteen metres a second the line runs at half its speed, and every tower is called once an hour.',
  'Above eighteen it is closed; cabins on the line are brought in at walking pace, the nearest tower first.',
];
const prose = sentences.join(' ').concat('\n', sentences.reverse().join(' '), '\n');

test('a text wrapped anew has no changed words, whatever the widths', () => {
  for (const [older, newer] of [
    [72, 60],
    [60, 72],
    [40, 66],
    [72, 50],
  ] as const) {
    const { changes, counts } = compared(folded(prose, older), folded(prose, newer));
    expect([changes, counts.wordsDeleted, counts.wordsInserted]).toEqual([[], 0, 0]);
  }
});

test('of a text wrapped anew the words that changed are told, and no others', () => {
  const changed = prose
    .replace('half its speed', 'a third of its speed')
    .replace('ten minutes', 'twenty minutes');
  const { counts, changes } = compared(folded(prose, 72), folded(changed, 60));
  expect(counts).toMatchObject({ wordsDeleted: 2, wordsInserted: 4 });
  expect(changes.map(({ before, after }) => [before, after])).toEqual(
    expect.arrayContaining([
      ['ten', 'twenty'],
      ['half', 'a third of'],
    ]),
  );
});

test('both texts can be read back from the comparison of any two, white space and line ends too', () => {
  const word = fc.constantFrom('wind', 'line', 'tower', '19', 'm/s,', 'Über', '—');
  const space = fc.constantFrom(' ', ' ', ' ', '\n', '\n', '\n\n', '  ', '\t');
  const text = fc
    .array(fc.tuple(word, space), { maxLength: 40 })
    .map((parts) => parts.flat().join('').replace(/\n+$/, ''));
  fc.assert(
    fc.property(text, text, (a, b) => {
      const comparison = compared(a, b);
      expect(textOf(comparison, 'newer')).toBe(b);
      expect(textOf(comparison, 'older')).toBe(a);
    }),
    { numRuns: 400 },
  );
});

test('a wrapped text whose words were shuffled is told within bounds, and says that it may be told shorter', () => {
  const words = Array.from({ length: 4000 }, (_, at) => `word${at % 700}`);
  const other = words.map((_, at) => words[(at * 2477) % words.length] as string);
  const { spans, isShortest } = boundedScript(words, other, 50_000);
  expect(isShortest).toBe(false);
  const side = (kind: 'deleted' | 'inserted'): number =>
    spans.reduce(
      (sum, span) => sum + (span.kind === kind ? span.aEnd - span.aStart + span.bEnd - span.bStart : 0),
      0,
    );
  expect([side('deleted') <= words.length, side('inserted') <= other.length]).toEqual([true, true]);
  expect(boundedScript(words, words).isShortest).toBe(true);
  expect(editCount(boundedScript(['a', 'b', 'c'], ['x', 'y']).spans)).toBe(5);
});
