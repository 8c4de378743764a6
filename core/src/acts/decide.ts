import { type Refusal, refuse } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import { type ApprovalDecision, type ApprovalRun, isComplete, waitingFor } from '../rules/approvalRun.ts';
import { type Actor, may } from '../rules/roles.ts';
import { noticeToDecide } from './notices.ts';
import { publication } from './publication.ts';
import { firstRefusal, knownRun, refuseComment, refuseWithoutRun } from './refusals.ts';
import { type Change, type DocumentState, labelIn, type Notice, type Outcome } from './state.ts';

/** An approver's word, and the version it is about. */
export interface Decide {
  version: Version;
  decision: ApprovalDecision;
  comment: string;
}

/**
 * An approver's word about the version in approval. One rejection ends the run; the approval that completes
 * it publishes the version, or leaves it approved, as the Rulebook says. Owner and author are told of a
 * rejection, whoever is asked next of their turn.
 */
export function decide(state: DocumentState, actor: Actor, command: Decide, now: Date): Outcome {
  const run = knownRun(state, actor);
  if (!run) return refuseWithoutRun(state, actor, 'there is nothing to decide');
  const { version, decision } = command;
  const refusal = firstRefusal(
    refuseOtherVersion(state, run, version),
    refuseNotAsked(state, actor, run, version),
    refuseComment(command.comment, false),
    refuseSilence(command),
  );
  if (refusal) return refusal;
  const comment = command.comment.trim();
  const label = labelIn(state, version);
  const posts = run.posts.map((post) =>
    post.personId === actor.id ? { ...post, decision, at: now, comment } : post,
  );
  const decided: Change = { kind: 'decidePost', personId: actor.id, decision, at: now, comment };
  const facts = { version: label, comment };
  if (decision === 'reject') {
    return {
      changes: [
        decided,
        { kind: 'setState', versionId: run.versionId, state: 'rejected' },
        { kind: 'closeRun', outcome: 'rejected', at: now },
      ],
      ledger: { act: decision, facts },
      notices: [rejection(state, version, { name: actor.name, comment, at: now })],
    };
  }
  if (decision === 'later' || !isComplete({ ...run, posts })) {
    const notices = noticeToDecide(state.id, label, run, { ...run, posts });
    return { changes: [decided], ledger: { act: decision, facts }, notices };
  }
  const closed: Change[] = [decided, { kind: 'closeRun', outcome: 'approved', at: now }];
  if (state.rules.approval.publishing === 'byOwner') {
    const approved: Change = { kind: 'setState', versionId: run.versionId, state: 'approved' };
    return { changes: [...closed, approved], ledger: { act: decision, facts } };
  }
  const by = {
    authorId: actor.id,
    comment: run.comment || version.comment,
    inForceFrom: run.inForceFrom,
  };
  const published = publication(state, version, by, now);
  const inForceFrom = published.inForceFrom.toISOString();
  return {
    changes: [...closed, ...published.changes],
    ledger: { act: decision, facts: { ...facts, published: published.label, inForceFrom } },
  };
}

/** Tells owner and author of a version that it came back from approval. */
function rejection(
  state: DocumentState,
  version: Version,
  by: { name: string; comment: string; at: Date },
): Notice {
  return {
    kind: 'rejected',
    personIds: [...new Set([state.ownerId, version.authorId])],
    about: `rejected:${version.id}:${by.at.getTime()}`,
    facts: { by: by.name, comment: by.comment, label: labelIn(state, version) },
  };
}

/** Rejecting, and deciding later, want a word why. */
function refuseSilence({ decision, comment }: Decide): Refusal | null {
  if (decision === 'approve' || comment.trim() !== '') return null;
  const reason =
    decision === 'reject'
      ? 'A rejection needs a comment. Say in a sentence what is wrong.'
      : 'Say in a sentence why you decide later.';
  return refuse('invalid', 'comment-missing', reason);
}

function refuseOtherVersion(state: DocumentState, run: ApprovalRun, version: Version): Refusal | null {
  if (version.id === run.versionId) return null;
  const [asked, given] = [labelIn(state, state.latest), labelIn(state, version)];
  const reason = `The decision is about ${asked}, not ${given}. Look at ${asked} and decide about it.`;
  return refuse('conflict', 'other-version', reason, { asked, given });
}

function refuseNotAsked(
  state: DocumentState,
  actor: Actor,
  run: ApprovalRun,
  version: Version,
): Refusal | null {
  const post = run.posts.find(({ personId }) => personId === actor.id);
  if (!post) {
    const approvers = run.posts.map(({ name }) => name).join(', ');
    return refuse('forbidden', 'not-asked', `${state.number} is decided by ${approvers}.`, { approvers });
  }
  if (!may(actor.roles, 'decide')) {
    const reason = 'Deciding is for approvers of this library; you no longer are one.';
    return refuse('forbidden', 'role-missing', reason);
  }
  if (version.authorId === actor.id && !state.rules.approval.authorMayApprove) {
    const reason = 'You made this version; in this library authors do not approve their own.';
    return refuse('forbidden', 'own-version', reason);
  }
  if (post.decision === 'approve' || post.decision === 'reject') {
    return refuse('conflict', 'decided-already', 'You have decided about this version already.');
  }
  const [first] = waitingFor(run);
  if (waitingFor(run).includes(post)) return null;
  const reason = `Approvers decide in turn here; ${first?.name} is asked first.`;
  return refuse('conflict', 'not-your-turn', reason, { waitingFor: first?.name });
}
