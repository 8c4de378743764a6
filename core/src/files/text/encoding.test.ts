import { execFileSync } from 'node:child_process';
import fc from 'fast-check';
import { isRefusal } from '../../document/refusal.ts';
import { decodeText, encodeText, encodings, type TextForm, withEnding } from './encoding.ts';

const text = 'Über 18 m/s: zurück – „Halt“ an Stütze 6.\nÖffnen: 3 × 4 €.\n';
/** A text as glibc's iconv writes it, a program of its own. */
const iconv = (to: string, given = text): Uint8Array =>
  execFileSync('iconv', ['-f', 'UTF-8', '-t', to], { input: given });

test.each([
  ['UTF-8', text, { encoding: 'utf-8', mark: false }],
  ['WINDOWS-1252', text, { encoding: 'windows-1252', mark: false }],
  ['ISO-8859-1', 'Über 18 m/s: zurück.\n', { encoding: 'windows-1252', mark: false }],
  ['UTF-16LE', text, { encoding: 'utf-16le', mark: false }],
  ['UTF-16BE', text, { encoding: 'utf-16be', mark: false }],
  ['UTF-16', text, { encoding: 'utf-16le', mark: true }],
])('%s as iconv writes it is read, and written again byte for byte', (to, words, form) => {
  const bytes = iconv(to, words);
  const read = decodeText(bytes);
  expect(read).toEqual({ text: words, form: { ...form, ending: '\n' } });
  expect(Buffer.from(encodeText(read.text, read.form) as Uint8Array)).toEqual(Buffer.from(bytes));
});

test('whatever bytes a file has, its text is written back as they are', () => {
  const anything = fc.oneof(
    fc.uint8Array({ maxLength: 200 }),
    fc.string({ unit: 'grapheme', maxLength: 60 }).map((words) => new TextEncoder().encode(words)),
    fc
      .tuple(
        fc.constantFrom([0xff, 0xfe], [0xfe, 0xff], [0xef, 0xbb, 0xbf]),
        fc.uint8Array({ maxLength: 60 }),
      )
      .map(([mark, rest]) => Uint8Array.from([...mark, ...rest])),
  );
  fc.assert(
    fc.property(anything, (bytes) => {
      const { text: words, form } = decodeText(bytes);
      expect([...(encodeText(words, form) as Uint8Array)]).toEqual([...bytes]);
    }),
    { numRuns: 2000 },
  );
});

test('a text is read as it was written, in every encoding that has its signs', () => {
  const forms = fc.record({ encoding: fc.constantFrom(...encodings), mark: fc.boolean() });
  fc.assert(
    fc.property(fc.string({ unit: 'binary', maxLength: 60 }), forms, (words, { encoding, mark }) => {
      const form: TextForm = { encoding, mark: mark && encoding !== 'windows-1252', ending: '\n' };
      const bytes = encodeText(words, form);
      if (isRefusal(bytes)) expect(encoding).toBe('windows-1252');
      else if (form.mark) expect(decodeText(bytes).text).toBe(words);
    }),
  );
});

test('signs an encoding has not are named, and nothing is written', () => {
  const form: TextForm = { encoding: 'windows-1252', mark: false, ending: '\n' };
  expect(encodeText('wind ≥ 18 m/s → close', form)).toMatchObject({
    code: 'not-in-encoding',
    reason:
      'The file is written in Windows-1252, which has no ≥ →. Leave that out, or write the file in UTF-8.',
  });
});

test('line ends are those most lines have', () => {
  expect(
    ['a\r\nb\r\nc\n', 'a\nb\r\n', 'a\rb\r', 'a'].map((words) => decodeText(Buffer.from(words)).form.ending),
  ).toEqual(['\r\n', '\n', '\r', '\n']);
  expect(withEnding('a\r\nb\rc\n', '\r\n')).toBe('a\r\nb\r\nc\r\n');
});
