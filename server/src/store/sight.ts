import { reach, type Rulebook, sightClasses, type SightClass, type Viewer } from '@polychron/core';

const conditions: Record<SightClass, string> = {
  inForce: "v.state = 'published' AND v.standing = 'inForce'",
  superseded: "v.state = 'published' AND (v.standing = 'superseded' OR v.standing IS NULL)",
  scheduled: "v.state = 'published' AND v.standing = 'scheduled'",
  withdrawn: "v.state = 'withdrawn'",
  draft: "v.state = 'draft'",
  inApproval: "v.state = 'inApproval'",
  approved: "v.state = 'approved'",
  rejected: "v.state = 'rejected'",
};

/** The person's team, over documents `d`, versions `v` and check-outs `c`. */
const team =
  "(d.owner_id = :viewer OR v.author_id = :viewer OR c.holder_id = :viewer OR d.co_author_ids LIKE CONCAT('%\"', :viewer, '\"%'))";

/**
 * The versions a person sees, as a condition over `v`, `d` and `c` with the replacement `:viewer`. Made from
 * the same `reach` as `explain`; a test holds the two together.
 */
export function sightCondition(viewer: Viewer, rules: Rulebook): string {
  const extents = reach(viewer.roles, rules);
  const parts = sightClasses.flatMap((kind) => {
    if (extents[kind] === 'all') return [`(${conditions[kind]})`];
    return extents[kind] === 'team' ? [`(${conditions[kind]} AND ${team})`] : [];
  });
  // Where past versions are not for the person, neither are the records of thinned ones.
  const thinned = extents.withdrawn === 'all' ? '' : ' AND v.thinned_at IS NULL';
  return parts.length === 0 ? 'FALSE' : `((${parts.join(' OR ')})${thinned})`;
}
