/**
 * The share of the text before that a version may fall to without being flagged (docs/rules.md, worked
 * example 14).
 */
const half = 0.5;

/**
 * Whether a version's text fell to under half of the one before: often a file put in by mistake. Words of
 * both are needed; a version or its forerunner without readable text is never flagged.
 */
export function textFell(words: number | null, wordsBefore: number | null): boolean {
  return words !== null && wordsBefore !== null && words < wordsBefore * half;
}
