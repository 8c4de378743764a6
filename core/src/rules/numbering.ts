import type { Level, Numbering, VersionNumber } from '../document/version.ts';

/** Orders two numbers: by era, then as numbers, so that 0.9 comes before 0.10. Negative when `a` is first. */
export function compareNumbers(a: VersionNumber, b: VersionNumber): number {
  return a.era - b.era || a.major - b.major || a.minor - b.minor;
}

const written: Record<Numbering, (number: VersionNumber) => string> = {
  stepped: ({ major, minor }) => `${major}.${minor}`,
  whole: ({ major }) => `${major}`,
  none: ({ major }) => `u${major}`,
};

/**
 * Writes a number as people read it: `8.1`, `8` under whole numbers, and with its era (`1~8.0`) when that is
 * not the document's present one. A version without a number still needs a name in addresses: `u3`, the
 * unnumbered one at place 3.
 */
export function formatLabel(number: VersionNumber, presentEra: number): string {
  const label = written[number.numbering](number);
  return number.era === presentEra ? label : `${number.era}~${label}`;
}

/** A label taken apart; `era` and `minor` are null where the label leaves them out. */
export interface ParsedLabel {
  era: number | null;
  major: number;
  minor: number | null;
}

/**
 * Reads a label (`8.1`, `8`, `2~3.0`, `u3`); null when the text is no label. Numbers above 9 digits are none.
 */
export function parseLabel(text: string): ParsedLabel | null {
  const match = /^(?:([1-9]\d{0,8})~)?(0|u?[1-9]\d{0,8})(?:\.(0|[1-9]\d{0,8}))?$/.exec(text);
  if (!match || (match[2]?.startsWith('u') && match[3] !== undefined)) return null;
  return {
    era: match[1] === undefined ? null : Number(match[1]),
    major: Number(match[2]?.replace('u', '')),
    minor: match[3] === undefined ? null : Number(match[3]),
  };
}

/**
 * The number the next version gets (docs/rules.md, Numbers).
 * @param highest the highest number used so far in the present era, or null for a new document
 * @param level `minor` steps between published numbers, `major` to the next one; under `whole` and `none`
 * every step is a major one
 */
export function numberToCome(
  numbering: Numbering,
  highest: VersionNumber | null,
  level: Level,
  era = 1,
): VersionNumber {
  const { major, minor } = highest ?? { major: 0, minor: 0 };
  if (numbering === 'stepped' && level === 'minor') {
    return { era: highest?.era ?? era, major, minor: minor + 1, numbering };
  }
  return { era: highest?.era ?? era, major: major + 1, minor: 0, numbering };
}
