import fc from 'fast-check';
import { compareNumbers, formatLabel, numberToCome, parseLabel } from './numbering.ts';
import type { VersionNumber } from '../document/version.ts';

const stepped = (major: number, minor: number, era = 1): VersionNumber => ({
  era,
  major,
  minor,
  numbering: 'stepped',
});

test('numbers compare as numbers: 0.9 before 0.10, an earlier era before a later one', () => {
  expect(compareNumbers(stepped(0, 9), stepped(0, 10))).toBeLessThan(0);
  expect(compareNumbers(stepped(9, 0), stepped(1, 0, 2))).toBeLessThan(0);
});

test('labels name the present era plainly and an other one with its number', () => {
  expect(formatLabel(stepped(8, 1), 1)).toBe('8.1');
  expect(formatLabel(stepped(8, 0), 2)).toBe('1~8.0');
  expect(formatLabel({ era: 1, major: 8, minor: 0, numbering: 'whole' }, 1)).toBe('8');
});

test.each([
  '',
  '8.',
  '.1',
  '08.1',
  '8.01',
  '8.1.1',
  '0~1.0',
  '1~',
  'a',
  '8,1',
  ' 8.1',
  '12345678901',
  '-1',
  '1e3',
])('"%s" is no label', (text) => {
  expect(parseLabel(text)).toBeNull();
});

test('every label reads back as the number it was written from', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 99 }),
      fc.nat(9999),
      fc.nat(9999),
      fc.integer({ min: 1, max: 99 }),
      (era, major, minor, present) => {
        const parsed = parseLabel(formatLabel(stepped(major, minor, era), present));
        expect(parsed).toEqual({ era: era === present ? null : era, major, minor });
      },
    ),
  );
});

test('the number to come', () => {
  expect(numberToCome('stepped', null, 'minor')).toEqual(stepped(0, 1));
  expect(numberToCome('stepped', null, 'major')).toEqual(stepped(1, 0));
  expect(numberToCome('stepped', stepped(8, 2), 'major')).toEqual(stepped(9, 0));
  expect(numberToCome('whole', null, 'major')).toMatchObject({ major: 1, minor: 0 });
});

test('a change of numbering renumbers nothing: after whole 8 comes 8.1, after stepped 8.2 comes 9', () => {
  expect(
    formatLabel(numberToCome('stepped', { era: 1, major: 8, minor: 0, numbering: 'whole' }, 'minor'), 1),
  ).toBe('8.1');
  expect(formatLabel(numberToCome('whole', stepped(8, 2), 'major'), 1)).toBe('9');
});
