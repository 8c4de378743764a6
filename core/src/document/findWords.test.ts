import fc from 'fast-check';
import { areFound, findableWords, soughtWords } from './findWords.ts';

const finds = (typed: string, title: string, number = 'OP-045'): boolean =>
  areFound(soughtWords(typed), findableWords(number, { title }, ''));

test.each([
  ['resc', 'Rescue from a cabin', true],
  ['cabin rescue', 'Rescue from a cabin', true],
  ['escue', 'Rescue from a cabin', false],
  ['grosse', 'Größe der Bahn', true],
  ['GRÖSSE', 'grösse', true],
  ['100%', 'Gamma 100% sure', true],
  ['wind-lim', 'The wind-limit table', true],
  ['wind limit', 'The wind-limit table', true],
  ['wind-limit', 'wind and limit', false],
])('%s finds %s: %s', (typed, title, found) => {
  expect(finds(typed, title)).toBe(found);
});

test('a number is found by its beginning, and by its figures', () => {
  for (const typed of ['OP-045', 'op-04', '045', 'OP']) expect(finds(typed, 'x')).toBe(true);
  expect(finds('OP-04', 'x 04', 'OP-112')).toBe(false);
});

/**
 * Word boundaries of scripts without spaces: Unicode Standard Annex 29, section 4, with ICU's dictionaries.
 */
test('words of scripts that set no spaces are found inside a line', () => {
  expect(finds('点検', '風速計の点検')).toBe(true);
});

test('type, subject and comment count', () => {
  const words = findableWords(
    'A-1',
    { title: 't', type: 'Procedure', subject: ['Line 4'] },
    'After the storm',
  );
  expect(areFound(soughtWords('procedure line storm'), words)).toBe(true);
});

test('nothing of a word is sought where only signs were typed', () => {
  expect(soughtWords(' _ % – ')).toEqual([]);
});

test('every text is found by itself, and by the beginning of each of its words', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'grapheme', maxLength: 60 }), (title) => {
      const words = findableWords('N', { title }, '');
      expect(areFound(soughtWords(title), words)).toBe(true);
      for (const token of title.split(/\s+/u)) expect(areFound(soughtWords(token), words)).toBe(true);
    }),
  );
});
