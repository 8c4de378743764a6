import { type Refusal, refuse } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { publication } from './publication.ts';
import {
  firstRefusal,
  refuseComment,
  refuseInApproval,
  refuseMoment,
  refuseUnseenLatest,
  refuseWhileHeld,
} from './refusals.ts';
import { type Change, type DocumentState, labelIn, type Outcome } from './state.ts';

/** Which draft is published, and when it comes into force (null: at once). */
export interface Publish {
  version: Version;
  comment: string;
  inForceFrom: Date | null;
}

/**
 * Publishes the open draft: a new x.0 with the draft's content comes into force, the draft stays. Without a
 * comment it takes the draft's, never the draft's number: readers see the comment of what is in force, and
 * nothing of drafts. Where approval is on the draft has to be approved. The holder may publish the base they
 * hold; the base then moves along, its content being the same.
 */
export function publish(state: DocumentState, actor: Actor, command: Publish, now: Date): Outcome {
  const { version, inForceFrom } = command;
  const isHolder = state.custody?.holderId === actor.id;
  const owns = state.ownerId === actor.id && actor.roles.size > 0;
  const refusal = firstRefusal(
    owns ? null : refuseByRole(actor, 'publish', 'Publishing'),
    refuseUnseenLatest(state, actor),
    isHolder ? null : refuseWhileHeld(state, actor),
    refuseInApproval(state),
    refuseOther(state, version),
    refuseNotApproved(state, version),
    refuseComment(command.comment, false),
    refuseMoment(inForceFrom, now),
  );
  if (refusal) return refusal;
  const comment = command.comment.trim() || version.comment;
  const published = publication(state, version, { authorId: actor.id, comment, inForceFrom }, now);
  const base: Change[] = isHolder && published.adds ? [{ kind: 'moveBase', to: 'new' }] : [];
  return {
    changes: [...published.changes, ...base],
    ledger: {
      act: 'publish',
      facts: {
        label: published.label,
        from: labelIn(state, version),
        comment,
        inForceFrom: published.inForceFrom.toISOString(),
      },
    },
  };
}

function refuseOther(state: DocumentState, version: Version): Refusal | null {
  const latest = labelIn(state, state.latest);
  if (state.latest.state === 'published' || state.latest.state === 'withdrawn') {
    const reason = `${state.number} has no open draft; ${latest} is ${state.latest.state} already.`;
    return refuse('conflict', 'nothing-to-publish', reason);
  }
  if (version.id === state.latest.id) return null;
  const label = labelIn(state, version);
  const reason = `${label} is not the latest draft, ${latest} is. Publish ${latest}, or restore ${label} first.`;
  return refuse('conflict', 'not-the-latest', reason, { version: label, latest });
}

function refuseNotApproved(state: DocumentState, version: Version): Refusal | null {
  if (!state.rules.approval.on || state.latest.state === 'approved') return null;
  const reason = `${labelIn(state, version)} is not approved. In this library a draft is published once it is approved; submit it.`;
  return refuse('conflict', 'needs-approval', reason);
}
