import { isRefusal } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import { type Post, waitingFor } from '../rules/approvalRun.ts';
import type { Actor } from '../rules/roles.ts';
import { decide } from './decide.ts';
import { reduce } from './reduce.ts';
import { type DocumentState, labelIn, newVersion } from './state.ts';

/** What somebody's approval would come to. */
export interface ApprovalOutlook {
  /** Whose decision it waits for then; nobody's where it would be enough. */
  asked: Post[];
  /** What would be published, and from when where that is later; null where it would be left approved. */
  published: { label: string; inForceFrom: Date | null } | null;
}

/**
 * What a person's approval would come to, by the act itself; null where they cannot approve.
 * @param inPlace whether they would decide in the place of those asked
 */
export function ifApproved(
  state: DocumentState,
  actor: Actor,
  now: Date,
  inPlace = false,
): ApprovalOutlook | null {
  const word = { version: state.latest, decision: 'approve', comment: 'x', inPlace } as const;
  const outcome = decide(state, actor, word, now);
  if (isRefusal(outcome)) return null;
  const after = reduce(state, outcome.changes, { newId: () => newVersion });
  if (after.state.approval) return { asked: waitingFor(after.state.approval), published: null };
  const made = after.versions.find(
    ({ before, after: version }) => version.state === 'published' && before?.state !== 'published',
  )?.after;
  if (!made) return { asked: [], published: null };
  const inForceFrom = made.standing === 'scheduled' ? made.inForceFrom : null;
  return { asked: [], published: { label: labelIn(after.state, made), inForceFrom } };
}

/** A version as it would be in force: who would see it then is asked of this one. */
export const asInForce = (version: Version): Version => ({
  ...version,
  state: 'published',
  standing: 'inForce',
});
