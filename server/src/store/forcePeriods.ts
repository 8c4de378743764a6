import type { Reduced, Version } from '@polychron/core';
import { run, type Tx } from './database.ts';
import type { Store } from './store.ts';

const isInForce = (version: Version | null): boolean => version?.standing === 'inForce';

/** Keeps when versions came into force and ceased to be: a version may be so more than once. */
export async function keepForcePeriods(
  store: Store,
  documentId: string,
  { versions }: Pick<Reduced, 'versions'>,
  { at, tx }: { at: Date; tx: Tx },
): Promise<void> {
  for (const { before, after } of versions) {
    const given = { documentId, versionId: after.id };
    if (isInForce(before) && !isInForce(after)) {
      await run(
        store.db,
        'UPDATE force_periods SET until_at = :until WHERE version_id = :versionId AND until_at IS NULL',
        { ...given, until: after.supersededAt ?? at },
        tx,
      );
    }
    if (!isInForce(before) && isInForce(after)) {
      await run(
        store.db,
        `INSERT INTO force_periods (document_id, version_id, from_at) VALUES (:documentId, :versionId, :from)`,
        { ...given, from: after.inForceFrom ?? at },
        tx,
      );
    }
  }
}
