import dayjs from 'dayjs';
import { barsOf, reignAt, type Row, shareOf, spanOf, ticksOf } from './calendar.ts';

const time = (text: string): number => dayjs(text).valueOf();
const iso = (text: string): string => new Date(time(text)).toISOString();
const row: Row = {
  document: {
    id: 'a',
    number: 'OP-001',
    title: 'Opening the line',
    library: { id: 'b', code: 'OP', name: 'Operating procedures' },
  },
  reigns: [
    { version: '1.0', versionId: 'one', from: iso('2026-02-10'), until: iso('2026-04-10') },
    { version: '2.0', versionId: 'two', from: iso('2026-04-10'), until: iso('2026-05-01') },
    { version: '1.0', versionId: 'one', from: iso('2026-06-01'), until: null },
  ],
};
const now = time('2026-07-15');

test('the calendar begins with the month of the first version, and shows thirty days where there is none', () => {
  expect(spanOf([row], now)).toEqual({ from: time('2026-02-01'), to: now });
  expect(spanOf([], now)).toEqual({ from: time('2026-06-01'), to: now });
});

test('at each moment the version that was in force, or none; the end of one is the beginning of the next', () => {
  const at = (text: string) => reignAt(row, time(text))?.version;
  expect(at('2026-02-09')).toBeUndefined();
  expect(at('2026-02-10')).toBe('1.0');
  expect(at('2026-04-10')).toBe('2.0');
  expect(at('2026-05-01')).toBeUndefined();
  expect(at('2026-07-15')).toBe('1.0');
});

test('bars fill the calendar as long as a version was in force', () => {
  const span = { from: time('2026-02-10'), to: time('2026-06-21') };
  const bars = barsOf(row, span);
  expect(bars.map(({ version }) => version)).toEqual(['1.0', '2.0', '1.0']);
  expect(bars[0]?.left).toBe(0);
  expect(bars[1]?.left).toBeCloseTo(bars[0]?.width ?? 0, 6);
  const last = bars[2];
  expect((last?.left ?? 0) + (last?.width ?? 0)).toBeCloseTo(1, 6);
  // Nothing is drawn beyond the ends.
  expect(shareOf(span, time('2020-01-01'))).toBe(0);
  expect(shareOf(span, time('2030-01-01'))).toBe(1);
});

test('the ruler has every month of a year, and fewer lines of more years; years begin at one', () => {
  const words = (from: string, to: string) =>
    ticksOf({ from: time(from), to: time(to) }).map((tick) => tick.words);
  expect(words('2026-01-01', '2026-04-15')).toEqual(['2026', 'Feb', 'Mar', 'Apr']);
  const long = words('2016-03-01', '2026-11-28');
  expect(long.length).toBeLessThanOrEqual(14);
  expect(long).toContain('2026');
});
