import { createHash } from 'node:crypto';
import { chainText, type LedgerEntry, type Registered } from '@polychron/core';
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

/** How documents were registered, and whether anybody else touched them since, by document. */
export async function registrationsOf(
  store: Store,
  documentIds: readonly string[],
  tx?: Tx,
): Promise<Map<string, Registered>> {
  if (documentIds.length === 0) return new Map();
  const found = await rows<{ id: string; byId: string; at: Date; published: number; touched: number }>(
    store.db,
    `SELECT f.document_id AS id, f.person_id AS byId, f.at,
       EXISTS (SELECT 1 FROM versions v WHERE v.document_id = f.document_id
         AND v.state IN ('published', 'withdrawn')) AS published,
       EXISTS (SELECT 1 FROM ledger o WHERE o.document_id = f.document_id
         AND o.person_id <> f.person_id) AS touched
     FROM ledger f WHERE f.chain IN (:documentIds) AND f.sequence = 1`,
    { documentIds: [...documentIds] },
    tx,
  );
  return new Map(
    found.map(({ id, byId, at, published, touched }) => [
      id,
      { byId, at, published: Boolean(published), touched: Boolean(touched) },
    ]),
  );
}
