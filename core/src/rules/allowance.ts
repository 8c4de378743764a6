import { type Refusal, refuse } from '../document/refusal.ts';
import type { Rulebook } from './rulebook.ts';

/** A size as people read it, in decimal units (IEC 80000-13: kB, MB and GB are powers of a thousand). */
export function sizeWords(size: number): string {
  const units = ['bytes', 'kB', 'MB', 'GB'];
  let [value, unit] = [size, 0];
  for (; value >= 1000 && unit < units.length - 1; unit += 1) value /= 1000;
  if (unit === 0) return size === 1 ? '1 byte' : `${size} bytes`;
  // Two sizes that differ are not to read alike where one is the limit of the other.
  return `${value < 100 ? value.toFixed(2).replace(/\.?0+$/, '') : Math.round(value)} ${units[unit]}`;
}

/** Refuses content larger than the library allows. */
export function refuseTooLarge(rules: Rulebook, size: number): Refusal | null {
  if (rules.maxFileBytes === null || size <= rules.maxFileBytes) return null;
  return refuse(
    'invalid',
    'file-too-large',
    `The file is too large: ${sizeWords(size)}; this library accepts files up to ${sizeWords(rules.maxFileBytes)}.`,
    { size, maxFileBytes: rules.maxFileBytes },
  );
}

/** Refuses content that a library with an allowance has no room for. */
export function refuseFull(rules: Rulebook, bytesKept: number | null, size: number): Refusal | null {
  if (rules.allowanceBytes === null || bytesKept === null || bytesKept + size <= rules.allowanceBytes)
    return null;
  return refuse(
    'conflict',
    'library-full',
    `The library is full: it keeps ${sizeWords(bytesKept)} of ${sizeWords(rules.allowanceBytes)}, and this version needs ${sizeWords(size)}. A controller can thin old versions, tighten the limits or raise the allowance.`,
    { bytesKept, allowanceBytes: rules.allowanceBytes, size },
  );
}
