import { dateWords, momentWords } from './whenWords.ts';

test('a date and a moment are written in UTC, wherever they are read', () => {
  expect([dateWords('2026-03-02'), dateWords(new Date('2025-12-31T23:59:00-02:00'))]).toEqual([
    '2 Mar 2026',
    '1 Jan 2026',
  ]);
  expect(momentWords('2025-11-03T09:12:59.900Z')).toBe('3 Nov 2025 09:12 UTC');
});
