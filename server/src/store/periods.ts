import type { Reduced, Version } from '@polychron/core';
import { run, type Tx } from './database.ts';
import type { VersionRow } from './models.ts';
import type { Store } from './store.ts';

/** Whether a period covers the moment `:at`. */
export const covering = (alias: string): string =>
  `${alias}.from_at <= :at AND (${alias}.until_at IS NULL OR ${alias}.until_at > :at)`;

/** Whether somebody held a document at the moment `:at`, over `custody_periods`. */
export const heldAt = (alias: string): string =>
  `${alias}.since <= :at AND (${alias}.ended_at IS NULL OR ${alias}.ended_at > :at)`;

/** What of a version can change. */
export type Standing = Pick<
  VersionRow,
  | 'state'
  | 'standing'
  | 'inForceFrom'
  | 'supersededAt'
  | 'thinnedAt'
  | 'thinnedUntil'
  | 'thinnedWhy'
  | 'sheltered'
  | 'withdrawnAt'
  | 'withdrawnWhy'
>;

/** How a version stands. */
export const standingOf = (version: Version): Standing => ({
  state: version.state,
  standing: version.standing,
  inForceFrom: version.inForceFrom,
  supersededAt: version.supersededAt,
  thinnedAt: version.thinned?.at ?? null,
  thinnedUntil: version.thinned?.until ?? null,
  thinnedWhy: version.thinned?.why ?? null,
  sheltered: version.sheltered,
  withdrawnAt: version.withdrawn?.at ?? null,
  withdrawnWhy: version.withdrawn?.why ?? null,
});

/** What of a version changed; nothing where it stands as before. */
export function changedOf(before: Version, after: Version): Partial<Standing> {
  const was = new Map<string, unknown>(Object.entries(standingOf(before)));
  return Object.fromEntries(
    Object.entries(standingOf(after)).filter(
      ([name, value]) => JSON.stringify(value) !== JSON.stringify(was.get(name)),
    ),
  );
}

/**
 * From when a version stands so: what comes into force or leaves it does so at its moment, also where a sweep
 * comes by later.
 */
function momentOf(
  before: Version | null,
  { standing, inForceFrom, supersededAt, at }: Version,
  now: Date,
): Date {
  if (!before) return at;
  if (standing === 'inForce' && before.standing === 'scheduled') return inForceFrom ?? now;
  if (standing === 'superseded' && before.standing === 'inForce') return supersededAt ?? now;
  return now;
}

/** Keeps how versions stand from now on, where that changed; for looking back. */
export async function keepVersionPeriods(
  store: Store,
  { id: documentId, libraryId }: { id: string; libraryId: string },
  { versions }: Pick<Reduced, 'versions'>,
  { at, tx }: { at: Date; tx: Tx },
): Promise<void> {
  const changed = versions.filter(
    ({ before, after }) => !before || Object.keys(changedOf(before, after)).length > 0,
  );
  const began = changed.map(({ before, after }) => ({ before, after, from: momentOf(before, after, at) }));
  for (const from of new Set(began.flatMap((one) => (one.before ? [one.from.getTime()] : [])))) {
    const ids = began.filter((one) => one.from.getTime() === from).map(({ after }) => after.id);
    await run(
      store.db,
      'UPDATE version_periods SET until_at = :from WHERE version_id IN (:ids) AND until_at IS NULL',
      { ids, from: new Date(from) },
      tx,
    );
  }
  if (began.length === 0) return;
  const periods = began.map(({ after, from }) => {
    const { state, standing, sheltered, inForceFrom, supersededAt, ...rest } = standingOf(after);
    const { thinnedAt, thinnedUntil, thinnedWhy, withdrawnAt, withdrawnWhy } = rest;
    return [
      ...[libraryId, documentId, after.id, from, state, standing, sheltered, inForceFrom, supersededAt],
      ...[thinnedAt, thinnedUntil, thinnedWhy, withdrawnAt, withdrawnWhy],
    ];
  });
  await run(
    store.db,
    `INSERT INTO version_periods (library_id, document_id, version_id, from_at, state, standing, sheltered,
       in_force_from, superseded_at, thinned_at, thinned_until, thinned_why, withdrawn_at, withdrawn_why)
     VALUES :periods`,
    { periods },
    tx,
  );
}

/** Keeps who belongs to a document's team from a moment on, and what it is itself, as its row says. */
export async function keepTeamPeriod(store: Store, documentId: string, at: Date, tx: Tx): Promise<void> {
  await run(
    store.db,
    'UPDATE team_periods SET until_at = :at WHERE document_id = :documentId AND until_at IS NULL',
    { documentId, at },
    tx,
  );
  await run(
    store.db,
    `INSERT INTO team_periods (document_id, from_at, owner_id, co_author_ids, administrative,
       template_for, voided_at, voided_by, voided_reason, circle)
     SELECT d.id, :at, d.owner_id, d.co_author_ids, d.administrative, d.template_for,
       d.voided_at, d.voided_by, d.voided_reason,
       IF(d.limited, (SELECT COALESCE(JSON_ARRAYAGG(k.person_id), '[]') FROM circles k WHERE k.document_id = d.id), NULL)
     FROM documents d WHERE d.id = :documentId`,
    { documentId, at },
    tx,
  );
}

/** Keeps until when a document was held up to now, before that changes. */
export async function keepEarlierUntil(store: Store, documentId: string, at: Date, tx: Tx): Promise<void> {
  await run(
    store.db,
    `INSERT INTO earlier_untils (document_id, changed_at, until_at)
     SELECT document_id, :at, until_at FROM checkouts WHERE document_id = :documentId`,
    { documentId, at },
    tx,
  );
}

/** Whose roles may have changed: everybody's in libraries, or one person's in all. */
type Whose = { libraryIds: readonly string[] } | { personId: string };

/** Keeps who holds which role from a moment on, after members, groups or accounts changed. */
export async function keepRolePeriods(store: Store, whose: Whose, at: Date, tx: Tx): Promise<void> {
  if ('libraryIds' in whose && whose.libraryIds.length === 0) return;
  const of = (table: string): string =>
    'personId' in whose ? `${table}.person_id = :personId` : `${table}.library_id IN (:libraryIds)`;
  const same = 'h.library_id = p.library_id AND h.person_id = p.person_id AND h.role = p.role';
  await run(
    store.db,
    `UPDATE role_periods p SET p.until_at = :at WHERE p.until_at IS NULL AND ${of('p')}
       AND NOT EXISTS (SELECT 1 FROM held_roles h WHERE ${same})`,
    { ...whose, at },
    tx,
  );
  await run(
    store.db,
    `INSERT INTO role_periods (library_id, person_id, role, from_at)
     SELECT h.library_id, h.person_id, h.role, :at FROM held_roles h
     WHERE ${of('h')} AND NOT EXISTS (SELECT 1 FROM role_periods p WHERE p.until_at IS NULL AND ${same})`,
    { ...whose, at },
    tx,
  );
}
