/** What sort of refusal it is; the HTTP door turns it into a status. */
export type RefusalKind = 'forbidden' | 'notFound' | 'conflict' | 'question' | 'invalid' | 'stale';

/** An expected "no": data with a stable code and a sentence for a person, never an exception inside core. */
export interface Refusal {
  refused: true;
  kind: RefusalKind;
  /** Stable, kebab-case; part of the HTTP interface. */
  code: string;
  reason: string;
  facts: Record<string, unknown>;
}

/** Builds a refusal. */
export function refuse(
  kind: RefusalKind,
  code: string,
  reason: string,
  facts: Record<string, unknown> = {},
): Refusal {
  return { refused: true, kind, code, reason, facts };
}

/** Tells a refusal from any other answer. */
export function isRefusal(value: unknown): value is Refusal {
  return typeof value === 'object' && value !== null && (value as { refused?: unknown }).refused === true;
}
