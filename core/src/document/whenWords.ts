/** The months as dates name them. */
export const months = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** A date as sentences write it, in UTC: "3 Nov 2025". @param at a moment, or an ISO 8601 date or moment */
export function dateWords(at: Date | string): string {
  const date = new Date(at);
  return `${date.getUTCDate()} ${months[date.getUTCMonth()]} ${date.getUTCFullYear()}`;
}

/** A moment as sentences write it: "3 Nov 2025 09:12 UTC". @param at a moment, or an ISO 8601 one */
export const momentWords = (at: Date | string): string =>
  `${dateWords(at)} ${new Date(at).toISOString().slice(11, 16)} UTC`;
