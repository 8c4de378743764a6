import { type Refusal, refuse } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import { type ApprovalDecision, type ApprovalRun, isComplete, waitingFor } from '../rules/approvalRun.ts';
import { type Actor, may, refuseByRole } from '../rules/roles.ts';
import { concerned, noticeToDecide } from './notices.ts';
import { publication, type Publication } from './publication.ts';
import { firstRefusal, knownRun, refuseComment, refuseWithoutRun } from './refusals.ts';
import { type Change, type DocumentState, labelIn, type Notice, type Outcome } from './state.ts';

/** An approver's word, and the version it is about. */
export interface Decide {
  version: Version;
  decision: ApprovalDecision;
  comment: string;
  /** Whether a controller decides in the place of those asked, with the comment as the reason. */
  inPlace?: boolean;
}

/**
 * An approver's word about the version in approval. One rejection ends the run; the approval that completes
 * it publishes the version, or leaves it approved, as the Rulebook says. Owner and author are told of a
 * rejection, whoever is asked next of their turn. Where the Rulebook lets them, controllers decide in the
 * place of those asked, who are told: with that the run is decided.
 */
export function decide(state: DocumentState, actor: Actor, command: Decide, now: Date): Outcome {
  const run = knownRun(state, actor);
  if (!run) return refuseWithoutRun(state, actor, 'there is nothing to decide');
  const { version, decision, inPlace = false } = command;
  const refusal = firstRefusal(
    refuseOtherVersion(state, run, version),
    inPlace ? refuseInPlace(state, actor) : refuseNotAsked(state, actor, run),
    refuseOwnVersion(state, actor, version),
    inPlace ? null : refuseTurn(actor, run),
    refuseComment(command.comment, false),
    refuseSilence(command),
  );
  if (refusal) return refusal;
  const comment = command.comment.trim();
  const label = labelIn(state, version);
  const said = { personId: actor.id, decision, at: now, comment };
  const posts = run.posts.map((post) => (post.personId === actor.id ? { ...post, ...said } : post));
  const decided: Change = inPlace
    ? { kind: 'decideInPlace', name: actor.name, ...said }
    : { kind: 'decidePost', ...said };
  const facts = { version: label, comment, ...(inPlace ? { inPlaceOf: namesOf(waitingFor(run)) } : {}) };
  const spared = inPlace ? [decidedForOthers(run, actor, { label, decision, comment, at: now })] : [];
  if (decision === 'reject') {
    return {
      changes: [
        decided,
        { kind: 'setState', versionId: run.versionId, state: 'rejected' },
        { kind: 'closeRun', outcome: 'rejected', at: now },
      ],
      ledger: { act: decision, facts },
      notices: [...spared, rejection(state, version, { name: actor.name, comment, at: now })],
    };
  }
  if (decision === 'later' || (!inPlace && !isComplete({ ...run, posts }))) {
    const notices = noticeToDecide(state.id, label, run, { ...run, posts });
    return { changes: [decided], ledger: { act: decision, facts }, notices };
  }
  const closed: Change[] = [decided, { kind: 'closeRun', outcome: 'approved', at: now }];
  if (state.rules.approval.publishing === 'byOwner') {
    const approved: Change = { kind: 'setState', versionId: run.versionId, state: 'approved' };
    const told = approval(state, actor, run, { label, comment, at: now, published: null });
    return { changes: [...closed, approved], ledger: { act: decision, facts }, notices: [...spared, told] };
  }
  const by = {
    authorId: actor.id,
    comment: run.comment || version.comment,
    inForceFrom: run.inForceFrom,
  };
  const published = publication(state, version, by, now);
  const inForceFrom = published.inForceFrom.toISOString();
  const told = approval(state, actor, run, { label, comment, at: now, published });
  return {
    changes: [...closed, ...published.changes],
    ledger: { act: decision, facts: { ...facts, published: published.label, inForceFrom } },
    notices: [...spared, told],
  };
}

/** Tells owner, author and submitter that a version was approved, and what came of it. */
function approval(
  state: DocumentState,
  actor: Actor,
  run: ApprovalRun,
  said: { label: string; comment: string; at: Date; published: Publication | null },
): Notice {
  const { label, comment, at, published } = said;
  const isLater = published !== null && published.inForceFrom.getTime() > at.getTime();
  return {
    kind: 'approved',
    personIds: concerned(state, actor, state.latest.authorId, run.submitterId),
    about: `approved:${run.versionId}:${at.getTime()}`,
    facts: {
      by: actor.name,
      label,
      comment,
      published: published && published.label,
      inForceFrom: isLater ? published.inForceFrom.toISOString() : null,
    },
  };
}

const namesOf = (posts: readonly { name: string }[]): string => posts.map(({ name }) => name).join(', ');

/** Tells those who were asked that somebody decided in their place. */
function decidedForOthers(
  run: ApprovalRun,
  actor: Actor,
  said: { label: string; decision: ApprovalDecision; comment: string; at: Date },
): Notice {
  const { label, decision, comment, at } = said;
  return {
    kind: 'decidedForYou',
    personIds: waitingFor(run)
      .map(({ personId }) => personId)
      .filter((id) => id !== actor.id),
    about: `decidedForYou:${run.versionId}:${at.getTime()}`,
    facts: { by: actor.name, label, decision, comment },
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

/** Rejecting, deciding later, and deciding in the place of others want a word why. */
function refuseSilence({ decision, comment, inPlace = false }: Decide): Refusal | null {
  if (inPlace && decision === 'later') {
    const reason = 'For someone else you can only approve or reject.';
    return refuse('invalid', 'later-in-place', reason);
  }
  if (comment.trim() !== '' || (decision === 'approve' && !inPlace)) return null;
  const reason = inPlace
    ? 'Deciding in the place of those asked needs a reason. Say in a sentence why you do.'
    : silence[decision];
  return refuse('invalid', 'comment-missing', reason);
}
const silence = {
  approve: '',
  reject: 'A rejection needs a comment. Say in a sentence what is wrong.',
  later: 'Say in a sentence why you decide later.',
};

/** Refuses whoever may not decide in the place of those asked. */
function refuseInPlace(state: DocumentState, actor: Actor): Refusal | null {
  const doing = 'Deciding in the place of those asked';
  const byRole = refuseByRole(actor, 'decideInPlace', doing);
  if (byRole || state.rules.approval.controllersDecide) return byRole;
  const reason =
    'In this library nobody decides in the place of those asked. Put somebody in the place of who is away, or let controllers decide in the Rulebook.';
  return refuse('conflict', 'not-in-place', reason);
}

function refuseOtherVersion(state: DocumentState, run: ApprovalRun, version: Version): Refusal | null {
  if (version.id === run.versionId) return null;
  const [asked, given] = [labelIn(state, state.latest), labelIn(state, version)];
  const reason = `The decision is about ${asked}, not ${given}. Look at ${asked} and decide about it.`;
  return refuse('conflict', 'other-version', reason, { asked, given });
}

function refuseNotAsked(state: DocumentState, actor: Actor, run: ApprovalRun): Refusal | null {
  const post = run.posts.find(({ personId }) => personId === actor.id);
  if (!post) {
    const approvers = run.posts.map(({ name }) => name).join(', ');
    return refuse('forbidden', 'not-asked', `${state.number} is decided by ${approvers}.`, { approvers });
  }
  if (!may(actor.roles, 'decide')) {
    const reason = 'Only approvers decide here, and you are not one any more.';
    return refuse('forbidden', 'role-missing', reason);
  }
  return null;
}

function refuseOwnVersion(state: DocumentState, actor: Actor, version: Version): Refusal | null {
  if (version.authorId !== actor.id || state.rules.approval.authorMayApprove) return null;
  const reason = 'You made this version; in this library authors do not approve their own.';
  return refuse('forbidden', 'own-version', reason);
}

function refuseTurn(actor: Actor, run: ApprovalRun): Refusal | null {
  const post = run.posts.find(({ personId }) => personId === actor.id);
  if (!post) return null;
  if (post.decision === 'approve' || post.decision === 'reject') {
    return refuse('conflict', 'decided-already', 'You have decided about this version already.');
  }
  const [first] = waitingFor(run);
  if (waitingFor(run).includes(post)) return null;
  const reason = `Approvers decide in turn here; ${first?.name} is asked first.`;
  return refuse('conflict', 'not-your-turn', reason, { waitingFor: first?.name });
}
