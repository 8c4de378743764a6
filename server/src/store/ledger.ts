import { createHash } from 'node:crypto';
import { chainText, type LedgerEntry } from '@polychron/core';
import { rows, type Tx } from './database.ts';
import type { Store } from './store.ts';

/** Of what no library and no document is the subject. */
export const ofSite = { libraryId: null, documentId: null };

/**
 * Adds an entry to the Ledger: chained per document, or per library where no document is meant, or to the
 * site's own chain.
 */
export async function appendLedger(
  store: Store,
  entry: Omit<LedgerEntry, 'sequence'>,
  tx: Tx,
): Promise<void> {
  const chain = entry.documentId ?? entry.libraryId ?? 'site';
  // The first entry stands for the chain: whoever holds it adds the next. Two that begin a chain meet at its
  // key, and one tries again.
  await rows(
    store.db,
    'SELECT id FROM ledger WHERE chain = :chain AND sequence = 1 FOR UPDATE',
    { chain },
    tx,
  );
  const [last] = await rows<{ sequence: number; hash: string }>(
    store.db,
    'SELECT sequence, hash FROM ledger WHERE chain = :chain ORDER BY sequence DESC LIMIT 1',
    { chain },
    tx,
  );
  const whole: LedgerEntry = { ...entry, sequence: (last?.sequence ?? 0) + 1 };
  const hash = createHash('sha256')
    .update(chainText(last?.hash ?? '', whole))
    .digest('hex');
  await store.models.Ledger.create({ ...whole, chain, hash }, { transaction: tx });
  store.latestAct.raise(entry.at);
}
