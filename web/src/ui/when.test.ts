import dayjs from 'dayjs';
import { bytes, day } from './when.ts';

test('days are said as people say them', () => {
  const now = dayjs();
  expect(day(now.toISOString())).toBe('today');
  expect(day(now.subtract(2, 'day').toISOString())).toBe(now.subtract(2, 'day').format('ddd'));
  expect(day(now.add(3, 'day').toISOString())).toBe(now.add(3, 'day').format('ddd'));
  expect(day(now.subtract(3, 'year').toISOString())).toBe(now.subtract(3, 'year').format('D MMM YYYY'));
});

test.each([
  [0, '0 B'],
  [999, '999 B'],
  [1000, '1.0 kB'],
  [12_345, '12 kB'],
  [9_990_000, '10.0 MB'],
  [250_000_000, '250 MB'],
  [3_000_000_000, '3.0 GB'],
  [5_000_000_000_000, '5000 GB'],
])('%i bytes are %s', (size, said) => {
  expect(bytes(size)).toBe(said);
});
