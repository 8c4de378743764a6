import fc from 'fast-check';
import { isRefusal } from '../document/refusal.ts';
import { decodeText, encodeText, type TextForm, withEnding } from '../files/text/encoding.ts';
import { readText } from '../files/text/readText.ts';
import { type Reading } from '../files/reading.ts';
import { compare } from '../compare/compare.ts';
import { buildText, planText } from './textFile.ts';

const latin: TextForm = { encoding: 'windows-1252', mark: false, ending: '\r\n' };
const utf8: TextForm = { encoding: 'utf-8', mark: false, ending: '\n' };
const wide: TextForm = { encoding: 'utf-16le', mark: true, ending: '\r\n' };
const file = (text: string, form: TextForm): Uint8Array =>
  encodeText(withEnding(text, form.ending), form) as Uint8Array;
const lines = ['Über der Stütze', 'Öffnen ab 18 m/s', 'Prüfen', 'Schließen'];
const withLine = (at: number, words: string): string =>
  lines.map((line, index) => (index === at ? words : line)).join('\n');
const merged = (base: Uint8Array, present: Uint8Array, mine: Uint8Array): Uint8Array => {
  const bytes = buildText(planText(base, present, mine), {});
  if (!bytes || isRefusal(bytes)) throw new Error(bytes ? bytes.reason : 'a conflict waits');
  return bytes;
};

test('both changes stand in the merged file, in encoding and line ends of the latest', () => {
  for (const forms of [
    [latin, latin, latin],
    [utf8, latin, utf8],
    [latin, wide, utf8],
    [wide, utf8, latin],
  ] as const) {
    const [a, b, c] = forms;
    const bytes = merged(
      file(lines.join('\n'), a),
      file(withLine(0, 'Über beiden Stützen'), b),
      file(withLine(3, 'Schließen, dann melden'), c),
    );
    const wanted = file(['Über beiden Stützen', lines[1], lines[2], 'Schließen, dann melden'].join('\n'), b);
    expect(Buffer.from(bytes)).toEqual(Buffer.from(wanted));
  }
});

test('line ends and encoding alone are no change; an umlaut is', () => {
  const plan = planText(
    file(lines.join('\n'), utf8),
    file(lines.join('\n'), latin),
    file(lines.join('\n'), wide),
  );
  expect(plan.regions.map(({ kind }) => kind)).toEqual(['same']);
  const side = (words: string, form: TextForm) => ({
    reading: readText(file(words, form)) as Reading,
    fields: { title: '' },
  });
  expect(compare(side('Die Stütze prüfen', latin), side('Die Stötze prüfen', latin)).changes).toMatchObject([
    { kind: 'changed', before: 'Stütze', after: 'Stötze' },
  ]);
  expect(compare(side('Stütze', latin), side('Stütze', utf8)).changes).toMatchObject([
    { where: 'field', what: 'Encoding', before: 'Windows-1252', after: 'UTF-8' },
  ]);
});

test('what the latest cannot hold is refused, and named', () => {
  const plan = planText(
    file(lines.join('\n'), latin),
    file(withLine(0, 'Über'), latin),
    file(withLine(3, 'Schließen → melden'), utf8),
  );
  expect(buildText(plan, {})).toMatchObject({
    code: 'not-in-encoding',
    reason: expect.stringContaining('→'),
  });
});

test('one side unchanged gives the other byte for byte, whatever line ends it mixes', () => {
  const word = fc.constantFrom('Wind', 'Stütze', '', 'ö');
  const mixed = fc
    .array(fc.tuple(word, fc.constantFrom('\n', '\r\n', '\r')), { maxLength: 12 })
    .map((parts) => parts.flat().join(''));
  fc.assert(
    fc.property(mixed, mixed, fc.constantFrom(latin, utf8, wide), (base, present, form) => {
      const [a, b] = [base, present].map((text) => encodeText(text, form) as Uint8Array) as [
        Uint8Array,
        Uint8Array,
      ];
      expect(decodeText(merged(a, b, a)).text).toBe(decodeText(b).text);
    }),
  );
});
