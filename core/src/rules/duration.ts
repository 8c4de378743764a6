/** An ISO 8601 duration taken apart; whole numbers only. */
export interface Duration {
  years: number;
  months: number;
  weeks: number;
  days: number;
  hours: number;
  minutes: number;
  seconds: number;
}

const form =
  /^P(?=\d|T\d)(?:(\d{1,4})Y)?(?:(\d{1,5})M)?(?:(\d{1,5})W)?(?:(\d{1,6})D)?(?:T(?=\d)(?:(\d{1,7})H)?(?:(\d{1,8})M)?(?:(\d{1,9})S)?)?$/;

/**
 * Reads a duration such as `P90D`, `P1Y6M` or `PT12H` (ISO 8601-1:2019, 5.5.2); null when the text is none.
 * Fractions, which the standard allows in the last part, are not read.
 */
export function parseDuration(text: string): Duration | null {
  const match = form.exec(text);
  if (!match) return null;
  const [years, months, weeks, days, hours, minutes, seconds] = match
    .slice(1)
    .map((part) => Number(part ?? 0)) as [number, number, number, number, number, number, number];
  return { years, months, weeks, days, hours, minutes, seconds };
}

/**
 * The moment so long before another, in UTC. Months are those of the calendar: a month before 31 March is the
 * last day of February.
 */
export function before(moment: Date, duration: Duration): Date {
  const months = moment.getUTCFullYear() * 12 + moment.getUTCMonth() - duration.years * 12 - duration.months;
  const [year, month] = [Math.floor(months / 12), ((months % 12) + 12) % 12];
  const lastDay = new Date(Date.UTC(year, month + 1, 0)).getUTCDate();
  const date = new Date(moment);
  date.setUTCFullYear(year, month, Math.min(moment.getUTCDate(), lastDay));
  const seconds =
    ((duration.weeks * 7 + duration.days) * 24 + duration.hours) * 3600 +
    duration.minutes * 60 +
    duration.seconds;
  return new Date(date.getTime() - seconds * 1000);
}

const words: [keyof Duration, string][] = [
  ['years', 'year'],
  ['months', 'month'],
  ['weeks', 'week'],
  ['days', 'day'],
  ['hours', 'hour'],
  ['minutes', 'minute'],
  ['seconds', 'second'],
];

/** A duration in words: "1 year 6 months". */
export function durationWords(duration: Duration): string {
  return (
    words
      .flatMap(([part, word]) =>
        duration[part] === 0 ? [] : [`${duration[part]} ${word}${duration[part] === 1 ? '' : 's'}`],
      )
      .join(' ') || 'no time'
  );
}
