import dayjs from 'dayjs';

/** How dates and moments are written where they are chosen. */
export const dateFormat = 'D MMM YYYY';
export const momentFormat = `${dateFormat} HH:mm`;

/** A day as people say it: "Tue" within six days, "3 Nov" this year, "3 Nov 2025" otherwise. */
export function day(instant: string): string {
  const at = dayjs(instant);
  const now = dayjs();
  if (Math.abs(at.diff(now, 'day', true)) < 6) return at.isSame(now, 'day') ? 'today' : at.format('ddd');
  return at.format(at.year() === now.year() ? 'D MMM' : dateFormat);
}

/** Day and time: "Tue 09:12". */
export const dayTime = (instant: string): string => `${day(instant)} ${dayjs(instant).format('HH:mm')}`;

/** The whole moment, for whoever looks closer. */
export const fullTime = (instant: string): string => dayjs(instant).format('dddd D MMMM YYYY, HH:mm:ss');

/** A date with its year: "3 Nov 2025". */
export const date = (instant: string): string => dayjs(instant).format(dateFormat);

/** A moment with its year: "3 Nov 2025 09:12". */
export const moment = (instant: string): string => dayjs(instant).format(momentFormat);

/** A size in bytes as people read it. */
export function bytes(size: number): string {
  if (size < 1000) return `${size} B`;
  const units = ['kB', 'MB', 'GB'];
  let value = size / 1000;
  let unit = 0;
  while (value >= 1000 && unit < units.length - 1) {
    value /= 1000;
    unit += 1;
  }
  return `${value < 10 ? value.toFixed(1) : Math.round(value)} ${units[unit]}`;
}

/** So many saves, in words. */
export const saves = (count: number): string => `${count} ${count === 1 ? 'save' : 'saves'}`;
