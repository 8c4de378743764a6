import { isRefusal, type Refusal, refuse } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import { type ApprovalRun, callApprovers } from '../rules/approvalRun.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { noticeToDecide } from './notices.ts';
import { firstRefusal, refuseComment, refuseMoment, refuseUnfree } from './refusals.ts';
import { type DocumentState, labelIn, type Outcome, sightFacts } from './state.ts';

/**
 * Which version its approvers are asked about, and when it should come into force (null: once it is
 * published).
 */
export interface Submit {
  version: Version;
  comment: string;
  inForceFrom: Date | null;
}

/** Asks the approvers about the latest draft, or about a rejected version as it is. */
export function submit(state: DocumentState, actor: Actor, command: Submit, now: Date): Outcome {
  const { version, inForceFrom } = command;
  const { rules } = state;
  const refusal = firstRefusal(
    refuseByRole(actor, 'submit', 'Submitting for approval'),
    refuseApprovalOff(state),
    refuseUnfree(state, actor),
    refuseNoDraft(state, version),
    refuseComment(command.comment, false),
    refuseMoment(inForceFrom, now),
  );
  if (refusal) return refusal;
  const posts = callApprovers(rules, state.approvers, sightFacts(state, version), state.ownerName);
  if (isRefusal(posts)) return posts;
  const run: ApprovalRun = {
    versionId: version.id,
    mode: rules.approval.mode,
    submitterId: actor.id,
    submitterName: actor.name,
    submittedAt: now,
    comment: command.comment.trim(),
    inForceFrom,
    posts,
  };
  const label = labelIn(state, version);
  return {
    changes: [
      { kind: 'setState', versionId: version.id, state: 'inApproval' },
      { kind: 'openRun', run },
    ],
    ledger: {
      act: 'submit',
      facts: {
        version: label,
        approvers: posts.map(({ name }) => name),
        mode: run.mode,
        comment: run.comment,
        inForceFrom: inForceFrom?.toISOString() ?? null,
      },
    },
    notices: noticeToDecide(state.id, label, null, run),
  };
}

function refuseApprovalOff({ rules }: DocumentState): Refusal | null {
  if (rules.approval.on) return null;
  const reason = 'This library publishes without approval. Publish the draft instead.';
  return refuse('conflict', 'approval-off', reason);
}

function refuseNoDraft(state: DocumentState, version: Version): Refusal | null {
  const label = labelIn(state, version);
  if (version.id !== state.latest.id) {
    const latest = labelIn(state, state.latest);
    const reason = `${label} is not the latest version, ${latest} is. Submit that one, or restore ${label} first.`;
    return refuse('conflict', 'not-the-latest', reason, { version: label });
  }
  if (version.state === 'draft' || version.state === 'rejected') return null;
  if (version.state === 'approved') {
    const reason = `${label} is approved already and waits to be published.`;
    return refuse('conflict', 'approved-already', reason);
  }
  const reason = `${label} is published already; there is no draft to submit.`;
  return refuse('conflict', 'nothing-to-submit', reason);
}
