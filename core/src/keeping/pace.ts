const yearInMilliseconds = 365 * 86_400_000;

/** How often a library publishes; counts of publications in the year before. */
export interface Pace { documents: number; publications: number; busiest: number; median: number }

/**
 * The pace of a library over the last 365 days.
 * @param publishedAt the moments of publication of each document, in milliseconds
 */
export function paceOf(publishedAt: readonly (readonly number[])[], now: Date): Pace {
  const since = now.getTime() - yearInMilliseconds;
  const counts = publishedAt.map((moments) => moments.filter((at) => at > since && at <= now.getTime()).length).sort((a, b) => a - b);
  return {
    documents: counts.length, publications: counts.reduce((sum, count) => sum + count, 0),
    busiest: counts.at(-1) ?? 0, median: counts[Math.floor((counts.length - 1) / 2)] ?? 0,
  };
}

/** A limit to choose, and what it stands for. */
export interface Preset { published: number; why: string }

/**
 * Limits on published versions to choose from: a year and three of the library's own pace, beside the rules of thumb (common practice,
 * docs/rules.md, Worked examples).
 */
export function presetsFor(pace: Pace): { own: Preset[]; thumb: Preset[] } {
  const own = pace.busiest === 0 ? [] : [
    { published: pace.busiest, why: 'a year' },
    { published: pace.busiest * 3, why: 'three years' },
  ];
  return {
    own,
    thumb: [
      { published: 5, why: 'where backups exist' },
      { published: 200, why: 'for actively controlled text' },
      { published: 500, why: 'for long-lived documents' },
    ],
  };
}
