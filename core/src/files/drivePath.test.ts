import fc from 'fast-check';
import { driveFileName, drivePath, fromSegment, subjectSegments, toSegment } from './drivePath.ts';
import { isTemporaryName } from './temporaryNames.ts';

const anyText = fc.string({ unit: 'binary', maxLength: 300 });

test('a document has a name that file systems take, found again by its number', () => {
  fc.assert(
    fc.property(anyText, fc.stringMatching(/^[A-Z]{2}-\d{1,4}$/), anyText, (title, number, fileName) => {
      const name = driveFileName({ number, title, fileName: `${fileName.replaceAll('.', '')}.docx` });
      expect(new TextEncoder().encode(name).length).toBeLessThanOrEqual(255);
      expect(name).not.toMatch(/\/|\\|:|\*|\?|"|<|>|\|/);
      expect(name.split(' ')[0]).toBe(number);
    }),
  );
  expect(driveFileName({ number: 'OP-014', title: 'Wind: 5/6', fileName: 'plan.tar.gz' })).toBe(
    'OP-014 Wind- 5／6.gz',
  );
  expect(driveFileName({ number: 'OP-014', title: 'None', fileName: 'README' })).toBe('OP-014 None');
});

test('subjects are folders, and none of them is the folder of the histories', () => {
  fc.assert(
    fc.property(
      fc.array(fc.constantFrom('versions', 'versions_', 'weather', 'a/b'), { minLength: 1 }),
      (names) => {
        const [first = '', ...others] = subjectSegments(names);
        expect(first).not.toBe('versions');
        expect(first.replace(/^(versions_*)_$/, '$1')).toBe(toSegment(names[0] ?? ''));
        expect(others.map(fromSegment)).toEqual(names.slice(1));
      },
    ),
  );
  const path = { code: 'OP', subjects: ['versions', 'b'], number: 'OP-1', title: 'T', fileName: 'x.txt' };
  expect(drivePath(path)).toEqual(['OP', 'versions_', 'b', 'OP-1 T.txt']);
});

// Common practice of office programs, editors and file managers; from memory.
test.each([
  '~$Opening.docx',
  '.~lock.Opening.odt#',
  '~WRL0003.tmp',
  'notes.txt~',
  '.notes.txt.swp',
  '4913',
  '._Opening.docx',
  '.DS_Store',
  'Thumbs.db',
  '.goutputstream-X1Y2',
  'A1B2C3D4',
  'Opening.docx.sb-1a2b3c-xyz',
  'backup.bak',
])('%s is kept while a program works', (name) => {
  expect(isTemporaryName(name)).toBe(true);
});

test.each([
  'Opening.docx',
  'Wind limits 2026.xlsx',
  'temp.docx',
  'Template.dotx',
  'lock.pdf',
  'a~b.txt',
  '12345678.pdf',
])('%s is a file of its own', (name) => {
  expect(isTemporaryName(name)).toBe(false);
});
