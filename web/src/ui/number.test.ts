import fc from 'fast-check';
import { readNumber } from './number.ts';

test('a comma and a point stand before decimals alike (ISO 80000-1, 7.3.2)', () => {
  expect(['12,5', '12.5', ' 12,50 ', '-0,25', '−3', ',5', '7.', '1,234'].map(readNumber)).toEqual([
    12.5, 12.5, 12.5, -0.25, -3, 0.5, 7, 1.234,
  ]);
});

test('what is no number, or could be two, is none', () => {
  for (const text of ['', 'abc', '12,5 m', '1.234,5', '1,234,567', '1 234', '1e5', '--1', '.', ',', '0x10'])
    expect([text, readNumber(text)]).toEqual([text, null]);
});

test('every number is read back as it is written, with either sign', () => {
  const number = fc.tuple(fc.integer(), fc.nat(999)).map(([whole, part]) => `${whole}.${part}`);
  fc.assert(
    fc.property(number, (text) => {
      expect(readNumber(text)).toBe(Number(text));
      expect(readNumber(text.replace('.', ','))).toBe(Number(text));
    }),
  );
});
