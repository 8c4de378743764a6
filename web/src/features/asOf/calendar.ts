import type { Calendar } from '@polychron/contract';
import dayjs from 'dayjs';

export type Row = Calendar['items'][number];
export type Reign = Row['reigns'][number];

/** The days a calendar is drawn for, as times in milliseconds. */
export interface Span {
  from: number;
  to: number;
}

/** From the month in which the first version came into force until now; at least 30 days. */
export function spanOf(rows: readonly Row[], now: number): Span {
  const begins = rows.flatMap(({ reigns }) => reigns.map(({ from }) => Date.parse(from)));
  const first = Math.min(now - 30 * 86_400_000, ...begins);
  return { from: dayjs(first).startOf('month').valueOf(), to: now };
}

/** Where a moment lies on the calendar: 0 at its beginning, 1 at its end. */
export const shareOf = ({ from, to }: Span, time: number): number =>
  Math.min(1, Math.max(0, (time - from) / (to - from)));

/** The version that was in force at a moment; undefined where none was. */
export const reignAt = ({ reigns }: Row, time: number): Reign | undefined =>
  reigns.find(({ from, until }) => Date.parse(from) <= time && (until === null || time < Date.parse(until)));

/** A stretch of a row over which one version was in force. */
export interface Bar extends Reign {
  left: number;
  width: number;
}

/** The bars of a row, in shares of the calendar. */
export const barsOf = ({ reigns }: Row, span: Span): Bar[] =>
  reigns.map((reign) => {
    const left = shareOf(span, Date.parse(reign.from));
    const right = reign.until === null ? 1 : shareOf(span, Date.parse(reign.until));
    return { ...reign, left, width: right - left };
  });

/** A line of the ruler: the beginning of a month, and what it is called. */
export interface Tick {
  time: number;
  share: number;
  words: string;
  /** Whether a year begins here. */
  year: boolean;
}

/** Most lines with words on the ruler. */
const mostTicks = 14;

/** The months of the calendar; every second, third … where they stand too close. */
export function ticksOf(span: Span): Tick[] {
  const months = dayjs(span.to).diff(dayjs(span.from), 'month') + 1;
  const step = [1, 2, 3, 6, 12, 24, 60, 120].find((one) => months / one <= mostTicks) ?? 120;
  const ticks: Tick[] = [];
  // Steps are counted from January, so that years begin at one.
  let month = dayjs(span.from).startOf('year');
  for (; month.valueOf() < span.to; month = month.add(step, 'month')) {
    if (month.valueOf() < span.from) continue;
    const year = month.month() === 0;
    const words = month.format(year ? 'YYYY' : 'MMM');
    ticks.push({ time: month.valueOf(), share: shareOf(span, month.valueOf()), words, year });
  }
  return ticks;
}
