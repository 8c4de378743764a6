import { type Refusal, refuse } from '../document/refusal.ts';
import type { Rulebook } from './rulebook.ts';

/** Refuses content larger than the library allows. */
export function refuseTooLarge(rules: Rulebook, size: number): Refusal | null {
  if (rules.maxFileBytes === null || size <= rules.maxFileBytes) return null;
  return refuse(
    'invalid',
    'file-too-large',
    `The file has ${size} bytes; this library takes files up to ${rules.maxFileBytes} bytes.`,
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
    `The library keeps ${bytesKept} of the ${rules.allowanceBytes} bytes it is allowed; the version needs ${size}. A controller can thin old versions, tighten the limits or raise the allowance.`,
    { bytesKept, allowanceBytes: rules.allowanceBytes, size },
  );
}
