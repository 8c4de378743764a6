import { elementAt } from '../document/elementAt.ts';
import { months } from '../document/whenWords.ts';

/** A mark on the calendar ruler; `x` is filled in by the layout. */
export interface Tick {
  at: Date;
  x: number;
  label: string;
}

const hour = 3_600_000;
const day = 24 * hour;

/** Room a label needs, in CSS pixels. */
const leastGap = 78;

/**
 * Marks of a calendar between two moments: hours, days, months or years, the finest that leaves room for the
 * labels. UTC throughout; a ruler of days and months is not the place where zones matter.
 */
export function rulerTicks(from: Date, to: Date, width: number): Tick[] {
  const span = to.getTime() - from.getTime();
  const most = Math.max(1, Math.floor(width / leastGap));
  const fixed = [hour, 3 * hour, 6 * hour, 12 * hour, day, 2 * day, 7 * day, 14 * day].find(
    (step) => span / step <= most,
  );
  if (fixed !== undefined) return fixedTicks(from, to, fixed);
  const inMonths = span / (30.44 * day);
  const step = [1, 2, 3, 6, 12, 24, 60, 120].find((each) => inMonths / each <= most) ?? 240;
  return monthTicks(from, to, step);
}

function fixedTicks(from: Date, to: Date, step: number): Tick[] {
  const ticks: Tick[] = [];
  for (let at = Math.ceil(from.getTime() / step) * step; at <= to.getTime(); at += step) {
    const date = new Date(at);
    const dayLabel = `${date.getUTCDate()} ${months[date.getUTCMonth()]}`;
    const clock = `${`${date.getUTCHours()}`.padStart(2, '0')}:00`;
    ticks.push({ at: date, x: 0, label: step < day && date.getUTCHours() !== 0 ? clock : dayLabel });
  }
  return ticks;
}

function monthTicks(from: Date, to: Date, step: number): Tick[] {
  const ticks: Tick[] = [];
  const start =
    from.getUTCFullYear() * 12 +
    from.getUTCMonth() +
    (from.getUTCDate() === 1 && from.getUTCHours() === 0 ? 0 : 1);
  for (let month = Math.ceil(start / step) * step; ; month += step) {
    const at = new Date(Date.UTC(Math.floor(month / 12), month % 12, 1));
    if (at.getTime() > to.getTime()) return ticks;
    const name = elementAt(months, month % 12);
    const year = at.getUTCFullYear();
    const monthLabel = ticks.length === 0 || month % 12 < step ? `${name} ${year}` : name;
    ticks.push({
      at,
      x: 0,
      label: step >= 12 ? `${year}` : monthLabel,
    });
  }
}
