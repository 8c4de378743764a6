import fc from 'fast-check';
import type { Run } from '../files/reading.ts';
import { tokenize } from './tokens.ts';
import { Numbering } from './wordNumbers.ts';
import { compareWords } from './words.ts';

/** What a word is, said by a pattern: the scanner's own code is not asked. */
const ideograph = String.raw`[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}]`;
const word = new RegExp(
  String.raw`${ideograph}|\p{N}+(?:[.,]\p{N}+)*|\p{L}(?:(?!${ideograph})[\p{L}\p{M}\p{N}'’_])*|\s+|[^]`,
  'gu',
);

test('words, numbers, white space and signs are found as the pattern says, in any script', () => {
  const sign = fc.oneof(
    fc.constantFrom(
      'a',
      'é',
      'e\u0301',
      "'",
      '’',
      '_',
      '1',
      '٣',
      '.',
      ',',
      ' ',
      '\n',
      '\u00a0',
      '-',
      '漢',
      'か',
    ),
    fc.constantFrom('😀', '𝒳', '𝟙', '𠀀', '\ud83d', '\ude00', '\ufffc', 'Ж', 'ש', 'ा', 'क'),
    fc.string({ unit: 'binary', minLength: 1, maxLength: 1 }),
  );
  fc.assert(
    fc.property(fc.array(sign, { maxLength: 30 }), (signs) => {
      const text = signs.join('');
      expect(tokenize(text)).toEqual(text.match(word) ?? []);
    }),
    { numRuns: 2000 },
  );
});

const sideOf = (runs: readonly (Run & { status: string })[], gone: string): string =>
  runs
    .filter(({ status }) => status !== gone)
    .map(({ text }) => text)
    .join('');

test('of long texts both are read back and little more than what was edited is told', () => {
  const words = ['the', 'line', 'is', 'opened', 'after', 'wind,', 'not', 'before.', 'Tower', '14', 'm/s'];
  const passage = fc.array(fc.constantFrom(...words), { minLength: 60, maxLength: 160 });
  const edit = fc.record({
    at: fc.nat(159),
    goes: fc.nat(2),
    comes: fc.array(fc.constantFrom('new', 'other', 'line', '\n', 'wind,'), { maxLength: 3 }),
  });
  fc.assert(
    fc.property(passage, fc.array(edit, { maxLength: 6 }), fc.boolean(), (older, edits, isLines) => {
      const lines = (text: readonly string[]): string =>
        text.map((each, at) => each + (isLines && at % 12 === 11 ? '\n' : ' ')).join('');
      const newer = [...older];
      let [out, into] = [0, 0];
      for (const { at, goes, comes } of edits) {
        out += newer.splice(at, goes, ...comes).length;
        into += comes.length;
      }
      const [a, b] = [lines(older), lines(newer)];
      const { runs, wordsDeleted, wordsInserted } = compareWords([{ text: a }], [{ text: b }]);
      expect([sideOf(runs, 'inserted'), sideOf(runs, 'deleted')]).toEqual([a, b]);
      // Twice: "m/s" is two words; what stands behind a small change is held though a shorter way may exist.
      expect(wordsDeleted + wordsInserted).toBeLessThanOrEqual(3 * (out + into));
    }),
    { numRuns: 500 },
  );
});

test('a word that is half bold is the same word, in another style', () => {
  const bold = { text: 'Tow', bold: true };
  const { runs, restyled, wordsDeleted } = compareWords(
    [{ text: 'at Tower 6' }],
    [{ text: 'at ' }, bold, { text: 'er 6' }],
  );
  expect(runs.map(({ text, status }) => [text, status])).toEqual([
    ['at ', 'same'],
    ['Tow', 'same'],
    ['er 6', 'same'],
  ]);
  expect(restyled).toEqual([[{ text: 'at Tower 6' }, bold]]);
  expect(wordsDeleted).toBe(0);
});

test('a sign that stands for a picture is not the picture, and two pictures are two', () => {
  const picture = (hash: string): Run => ({
    text: '',
    image: { part: hash, alt: '', width: 1, height: 1, hash },
  });
  const statuses = (older: Run[], newer: Run[]): string[] =>
    compareWords(older, newer).runs.map(({ status }) => status);
  expect(statuses([picture('a')], [picture('b')])).toEqual(['deleted', 'inserted']);
  expect(statuses([picture('a')], [{ text: '\ufffc' }])).toEqual(['deleted', 'inserted']);
  expect(statuses([picture('a')], [picture('a')])).toEqual(['same']);
});

test('white space that differs between words that stayed is told, and is no word', () => {
  const { runs, wordsDeleted, wordsInserted } = compareWords([{ text: 'a  b\tc' }], [{ text: 'a b\nc' }]);
  expect(runs.map(({ text, status }) => [text, status])).toEqual([
    ['a', 'same'],
    ['  ', 'deleted'],
    [' ', 'inserted'],
    ['b', 'same'],
    ['\t', 'deleted'],
    ['\n', 'inserted'],
    ['c', 'same'],
  ]);
  expect([wordsDeleted, wordsInserted]).toEqual([0, 0]);
});

test('a name reads as replaced, not as its words around a kept point', () => {
  const runs = (older: string, newer: string): string[][] =>
    compareWords([{ text: older }], [{ text: newer }]).runs.map(({ text, status }) => [status, text]);
  expect(runs('by M. Oduya today', 'by A. Kilbride today')).toEqual([
    ['same', 'by '],
    ['deleted', 'M. Oduya'],
    ['inserted', 'A. Kilbride'],
    ['same', ' today'],
  ]);
  // Where a word only came, the signs around it stay.
  expect(runs('a, b', 'a, c, b')).toEqual([
    ['same', 'a, '],
    ['inserted', 'c, '],
    ['same', 'b'],
  ]);
});

test('words that were picked to have one sum are told apart, among many others', () => {
  // "Aa" and "BB" have one sum where each sign counts 31 times the next.
  const picked = Array.from({ length: 1024 }, (_, at) =>
    Array.from({ length: 10 }, (__, bit) => ((at >> bit) & 1 ? 'Aa' : 'BB')).join(''),
  );
  const others = Array.from({ length: 3000 }, (_, at) => `word${at}`);
  const words = others.flatMap((word, at) => [word, picked[at % picked.length] as string]);
  const numbering = new Numbering();
  const bag = numbering.bagOf(words.join(' '));
  expect(new Set(bag).size).toBe(new Set(words).size);
  expect(numbering.bagOf(words.toReversed().join(' '))).toEqual(bag);
});
