import fc from 'fast-check';
import { DocumentQuery, namesOnPath, subjectPath } from './documents.ts';

test('a path of subjects leads back to its names, whatever signs they hold', () => {
  const name = fc
    .string({ unit: 'grapheme', minLength: 1, maxLength: 8 })
    .filter((text) => text.trim() === text);
  fc.assert(
    fc.property(fc.array(name, { minLength: 1, maxLength: 20 }), (names) => {
      expect(namesOnPath(subjectPath(names))).toEqual(names);
    }),
  );
});

test('what is no path is refused, and breaks nothing where it is only shown', () => {
  for (const path of ['%E0', 'rope//cabins', '', Array(21).fill('a').join('/')]) {
    expect(DocumentQuery.safeParse({ path }).success).toBe(false);
    expect(namesOnPath(path)).toEqual([path]);
  }
  expect(DocumentQuery.safeParse({ path: 'rope/a%2Fb' }).success).toBe(true);
});
