import { formatLabel } from '../numbering/number.ts';
import type { Actor } from '../policy/roles.ts';
import { may } from '../policy/roles.ts';
import type { DocumentState, Outcome } from '../versions/document.ts';
import { firstRefusal, refuseByRole, refuseComment, refuseInApproval, refuseMoment, refuseUnseenLatest, refuseWhileHeld, sightFacts } from '../versions/document.ts';
import { isRefusal, refuse, type Refusal } from '../versions/refusal.ts';
import type { Version } from '../versions/version.ts';
import { callApprovers } from './run.ts';

/** Asks the approvers about the latest draft, or about a rejected version as it is. */
export function submit(
  state: DocumentState, actor: Actor, command: { version: Version; comment: string; inForceFrom: Date | null }, now: Date,
): Outcome {
  const label = formatLabel(command.version, state.presentEra);
  const refusal = firstRefusal(
    refuseByRole(actor, 'submit', 'Submitting for approval'),
    refuseUnseenLatest(state, actor),
    state.rules.approval.on ? null : refuse('conflict', 'approval-off', 'This library publishes without approval. Publish the draft instead.'),
    refuseInApproval(state),
    refuseWhileHeld(state, actor),
    refuseNoDraft(state, command.version, label),
    refuseComment(command.comment, false),
    refuseMoment(command.inForceFrom, now),
  );
  if (refusal) return refusal;
  const posts = callApprovers(state.rules, state.approvers, sightFacts(state, command.version), state.ownerName);
  if (isRefusal(posts)) return posts;
  return {
    changes: [
      { kind: 'setState', versionId: command.version.id, state: 'inApproval' },
      { kind: 'openRun', run: { versionId: command.version.id, mode: state.rules.approval.mode, submitterId: actor.id, submittedAt: now, comment: command.comment.trim(), inForceFrom: command.inForceFrom, posts } },
    ],
    ledger: {
      act: 'submit',
      facts: { version: label, approvers: posts.map(({ name }) => name), mode: state.rules.approval.mode, comment: command.comment.trim(), inForceFrom: command.inForceFrom?.toISOString() ?? null },
    },
  };
}

function refuseNoDraft(state: DocumentState, version: Version, label: string): Refusal | null {
  if (version.id !== state.latest.id) {
    return refuse('conflict', 'not-the-latest', `${label} is not the latest version, ${formatLabel(state.latest, state.presentEra)} is. Submit that one, or restore ${label} first.`, { version: label });
  }
  if (version.state === 'draft' || version.state === 'rejected') return null;
  if (version.state === 'approved') return refuse('conflict', 'approved-already', `${label} is approved already and waits to be published.`);
  return refuse('conflict', 'nothing-to-submit', `${label} is published already; there is no draft to submit.`);
}

/** Takes a version out of approval, a draft again: submitter, owner or controller. */
export function callBack(state: DocumentState, actor: Actor, command: { comment: string }, now: Date): Outcome {
  const run = state.approval;
  if (!run) return refuse('conflict', 'not-in-approval', `${state.number} is not in approval; there is nothing to call back.`);
  const mayCall = run.submitterId === actor.id || state.ownerId === actor.id || may(actor.roles, 'changeRules');
  const refusal = firstRefusal(
    mayCall ? null : refuse('forbidden', 'not-yours-to-call-back', `${state.number} can be called back by ${run.submitterName}, who submitted it, ${state.ownerName}, who owns it, or a controller.`),
    refuseComment(command.comment, false),
  );
  if (refusal) return refusal;
  return {
    changes: [
      { kind: 'setState', versionId: run.versionId, state: 'draft' },
      { kind: 'closeRun', outcome: 'calledBack', at: now },
    ],
    ledger: { act: 'callBack', facts: { version: formatLabel(state.latest, state.presentEra), comment: command.comment.trim() } },
  };
}
