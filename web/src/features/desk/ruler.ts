import dayjs from 'dayjs';

/** A stretch of time laid on a width, with its marks. */
export interface Ruler {
  width: number;
  now: number;
  x: (at: number) => number;
  ticks: { x: number; label: string }[];
}

const dayMilliseconds = 86_400_000;
/** How far back and ahead the ruler reaches at most; what lies beyond stands at its end. */
const maximumBack = 42 * dayMilliseconds;
const maximumAhead = 28 * dayMilliseconds;

/** Days between two marks, so that their labels keep clear of each other. */
function stepFor(days: number): number {
  if (days > 35) return 7;
  return days > 18 ? 4 : 2;
}

/** A ruler over the moments given, at least a week to either side of now. */
export function rulerOver(moments: readonly number[], now: number, width: number): Ruler {
  const from = Math.max(now - maximumBack, Math.min(now - 7 * dayMilliseconds, ...moments) - dayMilliseconds);
  const to = Math.min(now + maximumAhead, Math.max(now + 5 * dayMilliseconds, ...moments) + dayMilliseconds);
  const x = (at: number): number =>
    8 + (width - 16) * ((Math.min(to, Math.max(from, at)) - from) / (to - from));
  const days = (to - from) / dayMilliseconds;
  const step = stepFor(days);
  const ticks: Ruler['ticks'] = [];
  for (let at = dayjs(from).startOf('day').add(1, 'day'); at.valueOf() < to; at = at.add(step, 'day'))
    ticks.push({ x: x(at.valueOf()), label: at.format(days > 12 ? 'D MMM' : 'ddd D') });
  return { width, now: x(now), x, ticks };
}
