const ordinals = ['first', 'second', 'third', 'fourth', 'fifth', 'sixth', 'seventh', 'eighth', 'ninth'];

function split(label: string): { era: number | null; number: string } {
  const [, era = '', number = label] = /^(\d+)~(.+)$/.exec(label) ?? [];
  return { era: era === '' ? null : Number(era), number };
}

/**
 * A version's label as people read it: one of an earlier numbering says so, `1~8.0` is "8.0 (first
 * numbering)".
 */
export function numberWords(label: string): string {
  const { era, number } = split(label);
  if (era === null) return number;
  return `${number} (${ordinals[era - 1] ?? `${era}th`} numbering)`;
}

/** The number alone, where a drawing shows which numbering it belongs to. */
export const bareNumber = (label: string): string => split(label).number;
