/** One act in the Ledger. Facts are plain JSON values. */
export interface LedgerEntry {
  documentId: string | null;
  libraryId: string | null;
  sequence: number;
  at: Date;
  personId: string | null;
  act: string;
  facts: Record<string, unknown>;
}

/**
 * The text a Ledger entry is hashed over: JSON with sorted keys (after RFC 8785, for the plain strings,
 * integers and lists that facts hold), so that the same entry always gives the same text.
 */
export function canonicalEntry(entry: LedgerEntry): string {
  return canonical({ ...entry, at: entry.at.toISOString() });
}

/** The text whose SHA-256 is the chain value of `entry` after `previous` (empty for the first). */
export function chainText(previous: string, entry: LedgerEntry): string {
  return `${previous}\n${canonicalEntry(entry)}`;
}

function canonical(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonical).join(',')}]`;
  if (typeof value === 'object' && value !== null) {
    const members = Object.entries(value)
      .filter(([, v]) => v !== undefined)
      .sort(([a], [b]) => (a < b ? -1 : 1));
    return `{${members.map(([k, v]) => `${JSON.stringify(k)}:${canonical(v)}`).join(',')}}`;
  }
  return JSON.stringify(value);
}
