const hour = 3_600_000;
const dayLong = 24 * hour;

/** How long something waits, in words: "3 days", "5 hours", "since just now". */
export function ageWords(since: string, now: number): string {
  const waited = Math.max(0, now - new Date(since).getTime());
  const [count, what] =
    waited >= dayLong ? [Math.floor(waited / dayLong), 'day'] : [Math.floor(waited / hour), 'hour'];
  if (count === 0) return 'less than an hour';
  return `${count} ${what}${count === 1 ? '' : 's'}`;
}

/** Ages are drawn up to the oldest of a list, and to no less than a week, so that a day looks like one. */
const leastFull = 7 * dayLong;

/** How long each of these waits, as shares of the longest: 0 to 1. */
export function ageShares(since: readonly string[], now: number): number[] {
  const ages = since.map((at) => Math.max(0, now - new Date(at).getTime()));
  const longest = Math.max(leastFull, ...ages);
  return ages.map((age) => age / longest);
}
