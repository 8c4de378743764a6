import { refuse } from '@polychron/core';
import { Refused } from '../refused.ts';

/** Deeper, and wider, than anything that is asked for: five thousand members with all their roles. */
const deepest = 32;
const mostValues = 40_000;

/**
 * Refuses what is nested deeper than anything here is, and text that is no Unicode: half of a surrogate pair
 * is no character (The Unicode Standard, 3.9, D84), and is stored as another. Looked at in one place, without
 * recursion, for all that comes in as JSON.
 * @throws Refused `invalid-input`
 */
export function requireWellFormed(given: unknown): void {
  const left: { value: unknown; path: readonly string[] }[] = [{ value: given, path: [] }];
  for (let next = left.pop(); next; next = left.pop()) {
    const { value, path } = next;
    if (typeof value === 'string') requireText(value, path);
    if (typeof value !== 'object' || value === null || value instanceof Date) continue;
    if (path.length >= deepest) throw invalid(path, `is nested more than ${deepest} deep.`);
    for (const [key, inner] of Object.entries(value)) {
      requireText(key, path);
      left.push({ value: inner, path: [...path, key] });
    }
  }
}

function requireText(text: string, path: readonly string[]): void {
  if (!/\p{Surrogate}/u.test(text)) return;
  throw invalid(path, 'has half of a surrogate pair, which is no character. Write it again.');
}

function invalid(path: readonly string[], why: string): Refused {
  const where = path.slice(0, 8).join('.');
  const detail = `${where || 'The request'} ${why}`;
  return new Refused(refuse('invalid', 'invalid-input', detail, { issues: [{ where, message: why }] }));
}

const [quote, backslash, comma, openers, closers] = [0x22, 0x5c, 0x2c, [0x5b, 0x7b], [0x5d, 0x7d]];

/**
 * Refuses a body of JSON (RFC 8259) that is nested deeper, or holds more values, than anything here, before
 * it is read: reading it, and saying what is wrong with each, would take seconds in which nobody else is
 * answered.
 * @throws Refused `invalid-input`
 */
export function requireModest(body: Uint8Array): void {
  let [depth, values] = [0, 0];
  let isText = false;
  for (let at = 0; at < body.length; at += 1) {
    const sign = body[at] as number;
    if (isText) {
      if (sign === backslash) at += 1;
      else if (sign === quote) isText = false;
    } else if (sign === quote) isText = true;
    else if (openers.includes(sign)) {
      depth += 1;
      if (depth > deepest) throw invalid([], `is nested more than ${deepest} deep.`);
    } else if (closers.includes(sign)) depth -= 1;
    else if (sign === comma) {
      values += 1;
      if (values > mostValues) throw invalid([], `holds more than ${mostValues} values.`);
    }
  }
}
