import { type Refusal, refuse } from '../document/refusal.ts';

/** How documents of a type are numbered; type null: all that no other pattern names. */
export interface NumberPattern {
  type: string | null;
  /** The signs of a number, with one run of # for its digits. */
  pattern: string;
}

/** A pattern in parts: `OP-###` is `OP-`, three digits, nothing. */
export interface PatternParts {
  before: string;
  /** Least number of digits, 1 to 9. */
  digits: number;
  after: string;
}

const maximumPatterns = 50;
/** What a document number is made of (letters, digits and . / _ -), the digits to come as #. */
const form = /^([\p{L}\p{N}][\p{L}\p{N}./_-]*)?(#{1,9})([\p{L}\p{N}./_-]*)$/u;

/** The parts of a pattern; null where it is none. */
export function readPattern(pattern: string): PatternParts | null {
  const [, before = '', digits = '', after = ''] = form.exec(pattern) ?? [];
  if (digits === '' || pattern.length > 36) return null;
  // A digit beside the run would be read as one of it.
  if (/\p{Nd}$/u.test(before) || /^\p{Nd}/u.test(after)) return null;
  return { before, digits: digits.length, after };
}

/** The number a pattern makes of a count: the 7th of `OP-###` is OP-007, the 1234th OP-1234. */
export const numberBy = ({ before, digits, after }: PatternParts, count: number): string =>
  `${before}${String(count).padStart(digits, '0')}${after}`;

/** The pattern of a type: its own, else that of all others, else the library's code with three digits. */
export function patternFor(
  patterns: readonly NumberPattern[],
  code: string,
  type: string | undefined,
): PatternParts {
  const of = patterns.find((one) => one.type !== null && one.type.toLowerCase() === type?.toLowerCase());
  const other = patterns.find((one) => one.type === null);
  return readPattern((of ?? other)?.pattern ?? '') ?? { before: `${code}-`, digits: 3, after: '' };
}

/** Refuses patterns that make no number, or name a type twice. */
export function refusePatterns(given: unknown): Refusal | null {
  const rule = 'numberPatterns';
  const no = (code: string, why: string): Refusal => refuse('invalid', code, `${rule} ${why}`, { rule });
  if (!Array.isArray(given) || given.length > maximumPatterns || !given.every(isPattern))
    return no('rule-value-unknown', 'is a list of at most 50 {type, pattern}; type null means all others.');
  const unfit = given.find(({ pattern }) => readPattern(pattern) === null);
  if (unfit) {
    const why = `holds “${unfit.pattern}”. A pattern is letters, digits and . / _ - with one run of # for the digits, such as OP-###, and no other digit beside them.`;
    return no('number-pattern-unfit', why);
  }
  const types = given.map(({ type }) => type?.trim().toLowerCase() ?? null);
  const twice = given.find((_, index) => types.indexOf(types[index] ?? null) !== index);
  if (!twice) return null;
  return no('number-pattern-twice', `names ${twice.type ?? 'all others'} twice. Name each once.`);
}

const isPattern = (given: unknown): given is NumberPattern => {
  const { type, pattern, ...rest } = (given ?? {}) as Record<string, unknown>;
  const isType = type === null || (typeof type === 'string' && type.trim() !== '' && type.length <= 60);
  return isType && typeof pattern === 'string' && Object.keys(rest).length === 0;
};
