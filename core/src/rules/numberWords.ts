const ordinals = ['first', 'second', 'third', 'fourth', 'fifth', 'sixth', 'seventh', 'eighth', 'ninth'];

function split(label: string): { era: number | null; number: string } {
  const [, era = '', number = label] = /^(\d+)~(.+)$/.exec(label) ?? [];
  return { era: era === '' ? null : Number(era), number };
}

/** Whether a label is of a version without a number: `u3`. */
export const isUnnumbered = (label: string): boolean => /^(\d+~)?u\d+$/.test(label);

/**
 * A version's label as people read it: one of an earlier numbering says so, `1~8.0` is "8.0 (first
 * numbering)"; one without a number is the current one.
 */
export function numberWords(label: string): string {
  if (isUnnumbered(label)) return 'the current version';
  const { era, number } = split(label);
  if (era === null) return number;
  return `${number} (${ordinals[era - 1] ?? `${era}th`} numbering)`;
}

/** The number alone, where a drawing shows which numbering it belongs to. */
export const bareNumber = (label: string): string => split(label).number;
