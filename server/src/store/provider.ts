import * as contract from '@polychron/contract';
import { rows, type Tx } from './database.ts';
import { parseJson } from './models.ts';
import type { Store } from './store.ts';

/** Somebody at a provider of identities. */
export interface Identity {
  issuer: string;
  subject: string;
}

/** Whose identity it is; null where it was never seen. */
export async function personOfIdentity(store: Store, identity: Identity, tx: Tx): Promise<string | null> {
  const [found] = await rows<{ personId: string }>(
    store.db,
    'SELECT person_id AS personId FROM identities WHERE issuer = :issuer AND subject = :subject FOR UPDATE',
    { ...identity },
    tx,
  );
  return found?.personId ?? null;
}

/** Keeps whose identity it is. */
export async function insertIdentity(
  store: Store,
  identity: Identity & { personId: string; at: Date },
  tx: Tx,
): Promise<void> {
  await store.db.query(
    `INSERT INTO identities (issuer, subject, person_id, created_at)
     VALUES (:issuer, :subject, :personId, :at)`,
    { replacements: { ...identity }, transaction: tx },
  );
}

/** How the provider's claims are taken; by the defaults where nobody has said it yet. */
export async function providerMapping(store: Store, tx?: Tx): Promise<contract.ProviderMapping> {
  const [found] = await rows<{ value: unknown }>(
    store.db,
    `SELECT value FROM settings WHERE name = 'provider'`,
    {},
    tx,
  );
  return contract.ProviderMapping.parse(found ? parseJson(found.value) : {});
}

/** Keeps how the provider's claims are taken. */
export async function keepProviderMapping(
  store: Store,
  mapping: contract.ProviderMapping,
  tx: Tx,
): Promise<void> {
  await store.db.query(
    `INSERT INTO settings (name, value) VALUES ('provider', :value) ON DUPLICATE KEY UPDATE value = :value`,
    { replacements: { value: JSON.stringify(mapping) }, transaction: tx },
  );
}
