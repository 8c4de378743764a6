import fc from 'fast-check';
import { driveFileName } from './drivePath.ts';
import { fileNamesIn, isNamedAs, numbersIn, withoutAdded } from './givenNames.ts';

const document = { number: 'OP-025', title: 'Tower drawing: upper', fileName: 'Tower drawing.pdf' };

test('every name that a document has or was given here is known, also with what browsers add', () => {
  for (const name of [
    'Tower drawing.pdf',
    'OP-025 1.0 Tower drawing.pdf',
    'OP-025 12 Tower drawing.pdf',
    'OP-025 3.0 (second numbering) Tower drawing.pdf',
    'OP-025 Tower drawing- upper.pdf',
  ])
    for (const more of ['', ' (1)', ' (12)', ' - Copy', ' - Copy (2)']) {
      const given = name.replace(/\.pdf$/, `${more}.pdf`);
      expect([given, isNamedAs(given, document)]).toEqual([given, 'exactly']);
    }
  expect(driveFileName(document)).toBe('OP-025 Tower drawing- upper.pdf');
});

test('with its number alone it may be the document’s; another number that begins so is another', () => {
  for (const name of [
    'OP-025 something else.pdf',
    'draft of OP-025.docx',
    'OP-025.pdf',
    'new_OP-025_final.pdf',
  ])
    expect([name, isNamedAs(name, document)]).toEqual([name, 'number']);
  for (const name of ['OP-0251 Tower drawing.pdf', 'XOP-025 plan.pdf', 'Tower.pdf', '1.0 Other.pdf'])
    expect([name, isNamedAs(name, document)]).toEqual([name, null]);
});

test('what may be a number in a name is found, whatever stands about it', () => {
  expect(numbersIn('OP-025 1.0 Tower drawing (1).pdf')).toEqual(['OP-025', '1.0']);
  expect(numbersIn('Tower drawing.pdf')).toEqual([]);
  fc.assert(
    fc.property(fc.string(), (name) => {
      expect(numbersIn(name).length).toBeLessThanOrEqual(3);
      expect(withoutAdded(withoutAdded(name))).toBe(withoutAdded(name));
    }),
  );
});

test('a name leads to every one that its file may be registered under', () => {
  expect(fileNamesIn('OP-025 1.0 Tower drawing (1).pdf')).toEqual([
    'OP-025 1.0 Tower drawing (1).pdf',
    'OP-025 1.0 Tower drawing.pdf',
    'Tower drawing (1).pdf',
    'Tower drawing.pdf',
  ]);
  const fileName = fc
    .string({ unit: 'grapheme', minLength: 1, maxLength: 20 })
    .filter((name) => name.trim() === name && !/[\n\r\u2028\u2029]/.test(name))
    .map((name) => `${name}.pdf`);
  const given = fc.constantFrom('', '7.1 ', 'OP-025 12 ', 'OP-025 3.0 (second numbering) ');
  const added = fc.constantFrom('', ' (1)', ' - Copy');
  const form = fc.constantFrom('NFC', 'NFD');
  fc.assert(
    fc.property(fileName, given, added, form, form, (registered, before, more, kept, came) => {
      const document = { number: 'OP-025', title: 'Tower', fileName: registered.normalize(kept) };
      const name = (before + registered.replace(/\.pdf$/, `${more}.pdf`)).normalize(came);
      expect(isNamedAs(name, document)).toBe('exactly');
      expect(fileNamesIn(name)).toContain(document.fileName);
    }),
  );
});

test('a file that was registered under a name with a figure behind it is known by that, too', () => {
  const copy = { number: 'OP-026', title: 'Tower', fileName: 'Tower drawing (1).pdf' };
  expect(isNamedAs('Tower drawing (1).pdf', copy)).toBe('exactly');
});
