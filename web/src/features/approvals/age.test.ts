import { ageShares, ageWords } from './age.ts';

const now = new Date('2026-11-28T12:00:00Z').getTime();

test.each([
  ['2026-11-28T11:40:00Z', 'less than an hour'],
  ['2026-11-28T10:40:00Z', '1 hour'],
  ['2026-11-28T02:00:00Z', '10 hours'],
  ['2026-11-27T11:00:00Z', '1 day'],
  ['2026-11-20T12:00:00Z', '8 days'],
  ['2026-11-29T12:00:00Z', 'less than an hour'],
])('what was asked %s waits %s', (since, words) => {
  expect(ageWords(since, now)).toBe(words);
});

test('ages are drawn up to the oldest, and to a week at least', () => {
  expect(ageShares(['2026-11-21T12:00:00Z', '2026-11-27T12:00:00Z'], now)).toEqual([1, 1 / 7]);
  expect(ageShares(['2026-11-14T12:00:00Z', '2026-11-21T12:00:00Z'], now)).toEqual([1, 0.5]);
  expect(ageShares(['2026-11-27T12:00:00Z'], now)).toEqual([1 / 7]);
});
