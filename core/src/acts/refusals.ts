import { type Refusal, refuse } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import type { ApprovalRun } from '../rules/approvalRun.ts';
import { type Actor, may } from '../rules/roles.ts';
import { explain, type Explanation, maySee, type Speaking } from '../rules/sight.ts';
import { type DocumentState, type Sighted, sightFacts } from './state.ts';

/** The longest comment, in characters (UTF-16 units); a comment is a sentence or a few, not a document. */
export const longestComment = 4000;

/** Whether the actor sees the version, and why. */
export function explainVersion(
  state: DocumentState,
  actor: Actor,
  version: Version,
  of: Speaking = 'you',
): Explanation {
  return explain(actor, sightFacts(state, version), state.rules, of);
}

/** Whether the actor sees the version. */
export const seesVersion = (state: DocumentState, actor: Actor, version: Sighted): boolean =>
  maySee(actor, sightFacts(state, version), state.rules);

/**
 * Refuses a change by someone who may not see the latest version, saying no more than that one is being
 * prepared.
 */
export function refuseUnseenLatest(state: DocumentState, actor: Actor): Refusal | null {
  if (seesVersion(state, actor, state.latest)) return null;
  const ask = state.custody?.holderName ?? state.ownerName;
  return refuse(
    'forbidden',
    'change-being-prepared',
    `A change to ${state.number} is being prepared. Ask ${ask}.`,
    { ask },
  );
}

/** Refuses while someone holds the document, naming them. */
export function refuseWhileHeld(state: DocumentState, actor: Actor): Refusal | null {
  const { custody } = state;
  if (!custody) return null;
  const facts = {
    holder: custody.holderName,
    since: custody.since.toISOString(),
    until: custody.until?.toISOString() ?? null,
  };
  if (custody.holderId === actor.id) {
    return refuse(
      'conflict',
      'held-by-you',
      `You hold ${state.number}. Check it in or give it back first.`,
      facts,
    );
  }
  return refuse(
    'conflict',
    'held',
    `${custody.holderName} holds ${state.number}. It can be changed once it is checked in or given back.`,
    facts,
  );
}

/** The open run, for whoever may know of it: who sees the version, or is asked about it. */
export function knownRun(state: DocumentState, actor: Actor): ApprovalRun | null {
  const { approval, latest } = state;
  const isAsked = approval?.posts.some(({ personId }) => personId === actor.id);
  return isAsked || seesVersion(state, actor, latest) ? approval : null;
}

/**
 * Refuses what is about an open run where there is none, or none the actor may know of; `nothing` says what
 * there is not. Who could change the document is told that a change is being prepared.
 */
export function refuseWithoutRun(state: DocumentState, actor: Actor, nothing: string): Refusal {
  const couldChange = state.approval !== null && may(actor.roles, 'checkOut');
  const prepared = couldChange ? refuseUnseenLatest(state, actor) : null;
  return prepared ?? refuse('conflict', 'not-in-approval', `${state.number} is not in approval; ${nothing}.`);
}

/** Refuses while the latest version waits for its approvers. */
export function refuseInApproval(state: DocumentState): Refusal | null {
  if (state.latest.state !== 'inApproval') return null;
  return refuse(
    'conflict',
    'in-approval',
    `${state.number} is in approval. Take back the submission before changing it.`,
  );
}

/** Refuses a comment that is missing where `required`, or too long. */
export function refuseComment(comment: string, required: boolean): Refusal | null {
  if (required && comment.trim() === '') {
    return refuse(
      'invalid',
      'comment-missing',
      'This library asks for a check-in comment. Say in a sentence what changed.',
    );
  }
  if (comment.length > longestComment) {
    return refuse(
      'invalid',
      'comment-too-long',
      `The comment has ${comment.length} characters; the longest allowed has ${longestComment}. Shorten it.`,
      { length: comment.length, longest: longestComment },
    );
  }
  return null;
}

/** Refuses an act whose reason is missing or too long; `ask` says what is wanted. */
export function refuseReason(reason: string, ask: string): Refusal | null {
  return reason.trim() === '' ? refuse('invalid', 'reason-missing', ask) : refuseComment(reason, false);
}

/** Refuses a moment of coming into force that is past. */
export function refuseMoment(inForceFrom: Date | null, now: Date): Refusal | null {
  if (inForceFrom === null || inForceFrom.getTime() >= now.getTime()) return null;
  return refuse(
    'invalid',
    'moment-past',
    `A version cannot come into force at ${inForceFrom.toISOString()}, which is past. Name a later moment, or none.`,
    { inForceFrom: inForceFrom.toISOString() },
  );
}

/** The first refusal of several checks, in the order they stand. */
export function firstRefusal(...checks: (Refusal | null)[]): Refusal | null {
  return checks.find((check) => check !== null) ?? null;
}

/** Refuses an act on a check-out that the actor does not hold; null when they hold it. */
export function refuseNotHolding(state: DocumentState, actor: Actor): Refusal | null {
  const { custody } = state;
  if (!custody) {
    return refuse('conflict', 'not-checked-out', `${state.number} is not checked out. Check it out first.`);
  }
  if (custody.holderId !== actor.id) {
    return refuse('conflict', 'held', `${custody.holderName} holds ${state.number}, not you.`, {
      holder: custody.holderName,
      since: custody.since.toISOString(),
    });
  }
  return null;
}

/** Refuses an end of a check-out that is past; null names none. */
export function refusePast(until: Date | null, now: Date): Refusal | null {
  if (until === null || until.getTime() > now.getTime()) return null;
  return refuse(
    'invalid',
    'until-in-the-past',
    `A check-out cannot end at ${until.toISOString()}, which is past. Name a later moment.`,
    { until: until.toISOString() },
  );
}

/**
 * Refuses a change of a document whose latest version the actor does not see, that is held, or that is in
 * approval.
 */
export function refuseUnfree(state: DocumentState, actor: Actor): Refusal | null {
  return firstRefusal(
    refuseUnseenLatest(state, actor),
    refuseWhileHeld(state, actor),
    refuseInApproval(state),
  );
}
