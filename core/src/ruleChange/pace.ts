const yearInMilliseconds = 365 * 86_400_000;

/** How often a library publishes; counts of publications in the year before. */
export interface Pace {
  documents: number;
  publications: number;
  busiest: number;
  median: number;
}

/**
 * The pace of a library over the last 365 days.
 * @param publishedAt the moments of publication of each document, in milliseconds
 */
export function paceOf(publishedAt: readonly (readonly number[])[], now: Date): Pace {
  const since = now.getTime() - yearInMilliseconds;
  const counts = publishedAt
    .map((moments) => moments.filter((at) => at > since && at <= now.getTime()).length)
    .sort((a, b) => a - b);
  return {
    documents: counts.length,
    publications: counts.reduce((sum, count) => sum + count, 0),
    busiest: counts.at(-1) ?? 0,
    median: counts[Math.floor((counts.length - 1) / 2)] ?? 0,
  };
}

/** A limit to choose, and what it stands for. */
export interface Preset {
  published: number;
  why: string;
}

/** Years of publications a preset keeps. */
const spans: readonly [years: number, words: string][] = [
  [1, "a year's worth"],
  [2, "two years'"],
  [3, "three years'"],
];

/**
 * Limits on published versions to choose from: years of the library's own pace, by its busiest document; none
 * where nothing was published. No figure is proposed for its own sake.
 */
export function presetsFor(pace: Pace): Preset[] {
  if (pace.busiest === 0) return [];
  return spans.map(([years, why]) => ({ published: pace.busiest * years, why }));
}
