import fc from 'fast-check';
import { driveFileName } from './drivePath.ts';
import { isNamedAs, numbersIn, withoutAdded } from './givenNames.ts';

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
