import { labelsToCome, type Level, type Numbering } from '@polychron/core';

/** What the first version of a document can be. */
export interface Way {
  level: Level;
  /** On the button, for so many documents. */
  words: (count: number) => string;
  /** In the sentence beside the file. */
  becomes: string;
}

/** What the first version of a document can be, the usual one first. */
export function firstWays(numbering: Numbering, approval: boolean): [Way, ...Way[]] {
  const { minor, major, submittedAs } = labelsToCome({ numbering, approval: { on: approval } }, null, 1);
  const named = numbering === 'none' ? '' : ` as ${major}`;
  const current = numbering === 'none' ? 'its current version' : major;
  const them = (count: number): string => (count === 1 ? '' : ` ${count} documents`);
  const published: Way = submittedAs
    ? {
        level: 'major',
        words: (count) =>
          `Register and submit${them(count) || (numbering === 'none' ? ' it' : ` ${submittedAs}`)}`,
        becomes: `${current} once it is approved`,
      }
    : {
        level: 'major',
        words: (count) => `Register${them(count)}${named}, in force`,
        becomes: `${current}, in force at once`,
      };
  if (minor === null) return [published];
  return [
    {
      level: 'minor',
      words: (count) => `Register${them(count)} as ${minor}, ${count === 1 ? 'a draft' : 'drafts'}`,
      becomes: `version ${minor}, a draft`,
    },
    published,
  ];
}
