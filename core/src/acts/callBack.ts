import { type Refusal, refuse } from '../document/refusal.ts';
import type { ApprovalRun } from '../rules/approvalRun.ts';
import { type Actor, may } from '../rules/roles.ts';
import { firstRefusal, knownRun, refuseComment, refuseWithoutRun } from './refusals.ts';
import { type DocumentState, labelIn, type Outcome } from './state.ts';

/** Takes a version out of approval, a draft again: submitter, owner or controller. */
export function callBack(
  state: DocumentState,
  actor: Actor,
  command: { comment: string },
  now: Date,
): Outcome {
  const run = knownRun(state, actor);
  if (!run) return refuseWithoutRun(state, actor, 'there is no submission to take back');
  const refusal = firstRefusal(refuseStranger(state, actor, run), refuseComment(command.comment, false));
  if (refusal) return refusal;
  return {
    changes: [
      { kind: 'setState', versionId: run.versionId, state: 'draft' },
      { kind: 'closeRun', outcome: 'calledBack', at: now },
    ],
    ledger: {
      act: 'callBack',
      facts: { version: labelIn(state, state.latest), comment: command.comment.trim() },
    },
  };
}

function refuseStranger(state: DocumentState, actor: Actor, run: ApprovalRun): Refusal | null {
  if ([run.submitterId, state.ownerId].includes(actor.id) || may(actor.roles, 'callBackOthers')) return null;
  const reason = `The submission of ${state.number} can be taken back by ${run.submitterName}, who submitted it, ${state.ownerName}, who owns it, or a controller.`;
  return refuse('forbidden', 'not-yours-to-call-back', reason);
}
