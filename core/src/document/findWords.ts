import type { FieldValue } from './fieldValue.ts';
import type { Fields } from './version.ts';

/** Signs of a word that are kept to find it by; what is longer is found by its beginning. */
const longestWord = 64;

const segmenter = new Intl.Segmenter('en', { granularity: 'word' });

/**
 * One word whatever its accents and capitals: "Größe" is "grosse" (The Unicode Standard 16, section 3.13,
 * compatibility caseless matching).
 */
const fold = (text: string): string =>
  isPlain.test(text)
    ? text.toLowerCase()
    : text.normalize('NFKD').replace(/\p{M}/gu, '').toUpperCase().toLowerCase();
const isPlain = /^[\t\r\n\x20-\x7e]*$/;

const cut = (word: string): string => Array.from(word).slice(0, longestWord).join('');

/** What stands between white space, without signs around it: `(OP-045).` is `op-045`. */
const tokensOf = (text: string): string[] =>
  fold(text)
    .split(/\s+/u)
    .map((token) => token.replace(/^[^\p{L}\p{N}]+|[^\p{L}\p{N}]+$/gu, ''))
    .filter((token) => token !== '');

/** The words of a token: `op-045` holds `op` and `045`; also where a script sets no space between words. */
const partsOf = (token: string): string[] => (/^[a-z0-9]+$/.test(token) ? [token] : segmentsOf(token));

const segmentsOf = (token: string): string[] =>
  [...segmenter.segment(token)].filter(({ isWordLike }) => isWordLike).map(({ segment }) => segment);

/**
 * The words a version is found by: of its document's number, its title, type, subject, other
 * fields and comment; each once.
 */
export function findableWords(number: string, fields: Fields, comment: string): string[] {
  // A person is found by who is asked for, not by words.
  const own = Object.values(fields.own ?? {}).flatMap(wordsOf);
  const text = [number, fields.title, fields.type, ...(fields.subject ?? []), ...own, comment].join(' ');
  return [
    ...new Set(
      tokensOf(text)
        .flatMap((token) => [token, ...partsOf(token)])
        .map(cut),
    ),
  ];
}

function wordsOf(value: FieldValue): (string | number)[] {
  if (typeof value === 'boolean' || (typeof value === 'object' && 'person' in value)) return [];
  return [value].flat();
}

/**
 * What somebody looks for, as beginnings of words that must all be found. A token with signs inside is one
 * beginning: `OP-04` finds OP-045 and no document whose words begin with OP and with 04.
 * @returns none where nothing of a word was typed
 */
export function soughtWords(typed: string): string[] {
  const sought = tokensOf(typed).flatMap((token) => {
    const parts = partsOf(token);
    return parts.join('') === token ? parts : [token];
  });
  return [...new Set(sought.map(cut))];
}

/** Whether every sought beginning begins one of the words. */
export const areFound = (sought: readonly string[], words: readonly string[]): boolean =>
  sought.every((beginning) => words.some((word) => word.startsWith(beginning)));
