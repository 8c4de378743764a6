/**
 * The number that a text says, with a comma or a point before its decimals; null for what is no number, and
 * for what could be two: "1.234,5" and "1,234,567".
 */
export function readNumber(text: string): number | null {
  const plain = text.trim().replace(/[−–]/, '-');
  return /^[+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+)$/.test(plain) ? Number(plain.replace(',', '.')) : null;
}
