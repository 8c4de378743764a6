import { may } from '@polychron/core';
import { rows } from './database.ts';
import { kindsInState, seesEveryKind, sightCondition } from './sight.ts';
import type { Store } from './store.ts';
import type { Sight } from './versions.ts';

/** How somebody sees one of the libraries they are a member of. */
export interface LibrarySight extends Sight {
  libraryId: string;
}

/** What waits for somebody's decision, what is out for others', or what came of it. */
export type ApprovalListing = 'toDecide' | 'inApproval' | 'approved' | 'rejected';

/** A document of such a list: with when it was submitted, or made; and what tells it from others then. */
interface Listed {
  documentId: string;
  at: Date;
  id: string;
}

/** Versions are joined loosely: where nothing is asked of them, for who sees every one, they are not read. */
const tables = `JOIN documents d ON d.id = r.open_document_id LEFT JOIN versions v ON v.id = r.version_id
  LEFT JOIN checkouts c ON c.document_id = d.id`;

/** Posts `p` of runs `r` whose turn is now. */
const isAsked = `(p.decision IS NULL OR p.decision = 'later') AND (r.mode <> 'serial' OR NOT EXISTS (
  SELECT 1 FROM approval_posts q WHERE q.run_id = p.run_id AND q.position < p.position
    AND (q.decision IS NULL OR q.decision = 'later')))`;

/**
 * Documents of a list, in its order, from behind a place on; and how many there are in all. What is open is
 * read by how long it waits, what was decided by whose it is: neither grows with what was decided before.
 */
export async function findApprovals(
  store: Store,
  sights: readonly LibrarySight[],
  asked: { listing: ApprovalListing; personId: string; after: readonly [Date, string] | null; count: number },
): Promise<{ found: Listed[]; total: number }> {
  const { listing, personId, after, count } = asked;
  const own = sights.filter((sight) => listing !== 'toDecide' || may(sight.actor.roles, 'decide'));
  if (own.length === 0) return { found: [], total: 0 };
  const { from, at, id, where, behind, order } = listings(listing, own);
  const given = Object.assign(
    { viewer: personId, afterAt: after?.[0] ?? null, afterId: after?.[1] ?? '', count },
    ...own.map(({ libraryId }, place) => ({ [`library${place}`]: libraryId })),
  );
  const [found, [counted]] = await Promise.all([
    rows<Listed>(
      store.db,
      `SELECT d.id AS documentId, ${at} AS at, ${id} AS id FROM ${from} WHERE ${where} ${after ? `AND ${behind}` : ''}
       ORDER BY ${order} LIMIT :count`,
      given,
    ),
    rows<{ total: number }>(store.db, `SELECT COUNT(*) AS total FROM ${from} WHERE ${where}`, given),
  ]);
  return { found, total: Number(counted?.total ?? 0) };
}

function listings(listing: ApprovalListing, sights: readonly LibrarySight[]) {
  const seen = either(sights, ({ actor, rules }) =>
    seesEveryKind(actor, rules) ? 'TRUE' : sightCondition(actor, rules),
  );
  const open = {
    at: 'r.waiting_since',
    id: 'r.id',
    behind: '(r.waiting_since > :afterAt OR (r.waiting_since = :afterAt AND r.id > :afterId))',
    order: 'r.waiting_since, r.id',
  };
  // Whose turn it is, where they may decide.
  const isTheirTurn = `p.person_id = :viewer AND ${isAsked} AND ${either(sights, ({ actor, rules }) => {
    if (!may(actor.roles, 'decide')) return 'FALSE';
    return rules.approval.authorMayApprove ? 'TRUE' : 'v.author_id <> :viewer';
  })}`;
  switch (listing) {
    case 'toDecide':
      return {
        ...open,
        from: `approval_posts p JOIN approval_runs r ON r.id = p.run_id ${tables}`,
        where: `${isTheirTurn} AND ${seen}`,
      };
    case 'inApproval': {
      const mine = either(sights, ({ actor }) =>
        may(actor.roles, 'replaceApprover') ? 'TRUE' : '(r.submitter_id = :viewer OR d.owner_id = :viewer)',
      );
      return {
        ...open,
        from: `approval_runs r ${tables}`,
        where: `r.waiting_since IS NOT NULL AND ${seen} AND ${mine}
          AND NOT EXISTS (SELECT 1 FROM approval_posts p WHERE p.run_id = r.id AND ${isTheirTurn})`,
      };
    }
    case 'approved':
    case 'rejected':
      return {
        at: 'v.at',
        id: 'v.id',
        from: `newest_versions n JOIN versions v ON v.id = n.version_id JOIN documents d ON d.id = n.document_id
          LEFT JOIN checkouts c ON c.document_id = d.id`,
        where: `n.person_id = :viewer AND n.kind = ${kindsInState(listing) & 0xff} AND n.later = 0
          AND (v.author_id = :viewer OR d.owner_id = :viewer) AND ${seen}`,
        behind: '(v.at < :afterAt OR (v.at = :afterAt AND v.id > :afterId))',
        order: 'v.at DESC, v.id',
      };
  }
}

/** A condition for the documents `d` of each library. */
const either = (sights: readonly LibrarySight[], of: (sight: LibrarySight) => string): string =>
  `(${sights.map((sight, place) => `(d.library_id = :library${place} AND ${of(sight)})`).join(' OR ')})`;
