import type { ApprovalDecision, ApprovalRun, Approver, NewRun, RunOutcome } from '../approval/run.ts';
import { formatLabel } from '../numbering/number.ts';
import type { Actor } from '../policy/roles.ts';
import { may, rolesFor, type Act } from '../policy/roles.ts';
import type { Rulebook } from '../policy/rulebook.ts';
import { explain, type Explanation, type SightFacts, type Speaking } from '../sight/explain.ts';
import { refuse, type Refusal } from './refusal.ts';
import type { ContentFacts, State, Thinned, Version, VersionNumber } from './version.ts';

/** Who holds a document checked out, since and until when, and on what base. */
export interface Custody {
  holderId: string;
  holderName: string;
  since: Date;
  /** Null: without end. */
  until: Date | null;
  reason: string | null;
  base: Version;
  /** The working copy as last saved, or null while nothing was saved. */
  workingCopy: ContentFacts | null;
  saves: number;
  lastSavedAt: Date | null;
  /** The sitting in which the last save was kept by itself; null where a person saved it. */
  sitting: string | null;
}

/** What a decision about one document is taken on. */
export interface DocumentState {
  id: string;
  number: string;
  ownerId: string;
  ownerName: string;
  coAuthorIds: readonly string[];
  presentEra: number;
  latest: Version;
  inForce: Version | null;
  /** Published versions whose moment is still to come, oldest first. */
  scheduled: readonly Version[];
  /** The open run about the latest version, while that is in approval. */
  approval: ApprovalRun | null;
  /** Who is asked to decide: the document's own approvers, else the library's. */
  approvers: readonly Approver[];
  /** The highest number used in the present era; the next is always above it. */
  highest: VersionNumber;
  custody: Custody | null;
  /** Bases of copies that were set aside when a check-out was lifted, and are not brought in yet. */
  setAsideBaseIds: readonly string[];
  rules: Rulebook;
  /** Bytes of content the library keeps; null where it has no allowance to hold against them. */
  bytesKept: number | null;
}

/** A version to be stored; the store gives it id and sequence. */
export type NewVersion = Omit<Version, 'id' | 'sequence' | 'thinned' | 'sheltered' | 'supersededAt'>;

/** Stands for the version added in the same decision, wherever a change names a version. */
export const newVersion = 'new';

/** What a decision changes; the store carries them out in one transaction, in this order. */
export type Change =
  | { kind: 'addVersion'; version: NewVersion }
  | { kind: 'setState'; versionId: string; state: State }
  /** Publishes a version under the number it has. */
  | { kind: 'schedule'; versionId: string; inForceFrom: Date }
  | { kind: 'comeIntoForce'; versionId: string; at: Date }
  | { kind: 'supersede'; versionId: string; at: Date }
  | { kind: 'openRun'; run: NewRun }
  | { kind: 'decidePost'; personId: string; decision: ApprovalDecision; at: Date; comment: string }
  | { kind: 'closeRun'; outcome: RunOutcome; at: Date }
  | { kind: 'thin'; versionId: string; thinned: Thinned }
  | { kind: 'recover'; versionId: string }
  | { kind: 'shelter'; versionId: string; sheltered: boolean }
  | { kind: 'openCustody'; holderId: string; since: Date; until: Date | null; reason: string | null; baseId: string }
  | { kind: 'setUntil'; until: Date | null }
  /** A save; one kept by itself takes the place of the one before of the same sitting. */
  | { kind: 'saveWorkingCopy'; content: ContentFacts; at: Date; sitting: string | null; replaces: boolean }
  | { kind: 'emptyWorkingCopy' }
  | { kind: 'moveBase'; to: 'new' }
  /** Moves the working copy with its saves to the holder's Desk. */
  | { kind: 'setAside'; reason: string }
  | { kind: 'closeCustody'; how: CustodyEnd; reason: string | null };

/** How a check-out ended. */
export type CustodyEnd = 'checkedIn' | 'discarded' | 'lifted';

/** An accepted command: what changes, and what the Ledger says of it. */
export interface Decision {
  refused?: false;
  changes: Change[];
  /** Null for what the Ledger need not tell: a save kept by itself within one sitting. */
  ledger: { act: string; facts: Record<string, unknown> } | null;
}
export type Outcome = Decision | Refusal;

/** The longest comment, in characters (UTF-16 units); a comment is a sentence or a few, not a document. */
export const longestComment = 4000;

/** What sight needs to know of one of the document's versions. */
export function sightFacts(state: DocumentState, version: Version): SightFacts {
  return {
    label: formatLabel(version, state.presentEra),
    state: version.state,
    standing: version.standing,
    thinned: version.thinned !== null,
    authorId: version.authorId,
    ownerId: state.ownerId,
    coAuthorIds: state.coAuthorIds,
    holderId: state.custody?.holderId ?? null,
  };
}

/** Whether the actor sees the version, and why. */
export function explainVersion(state: DocumentState, actor: Actor, version: Version, of: Speaking = 'you'): Explanation {
  return explain(actor, sightFacts(state, version), state.rules, of);
}

/** Refuses an act the actor's roles do not allow; null when they do. */
export function refuseByRole(actor: Actor, act: Act, doing: string): Refusal | null {
  if (may(actor.roles, act)) return null;
  return refuse('forbidden', 'role-missing', `${doing} is for ${rolesFor(act)} of this library.`, { needs: rolesFor(act) });
}

/** Refuses a change by someone who may not see the latest version, saying no more than that one is being prepared. */
export function refuseUnseenLatest(state: DocumentState, actor: Actor): Refusal | null {
  if (explainVersion(state, actor, state.latest).sees) return null;
  const ask = state.custody?.holderName ?? state.ownerName;
  return refuse('forbidden', 'change-being-prepared', `A change to ${state.number} is being prepared. Ask ${ask}.`, { ask });
}

/** Refuses while someone holds the document, naming them. */
export function refuseWhileHeld(state: DocumentState, actor: Actor): Refusal | null {
  const { custody } = state;
  if (!custody) return null;
  const facts = { holder: custody.holderName, since: custody.since.toISOString(), until: custody.until?.toISOString() ?? null };
  if (custody.holderId === actor.id) {
    return refuse('conflict', 'held-by-you', `You hold ${state.number}. Check it in or discard the check-out first.`, facts);
  }
  return refuse('conflict', 'held',
    `${custody.holderName} holds ${state.number}. It can be changed once it is checked in or the check-out is discarded.`, facts);
}

/** Refuses while the latest version waits for its approvers. */
export function refuseInApproval(state: DocumentState): Refusal | null {
  if (state.latest.state !== 'inApproval') return null;
  return refuse('conflict', 'in-approval', `${state.number} is in approval. Call it back before changing it.`);
}

/** Refuses a comment that is missing where `required`, or too long. */
export function refuseComment(comment: string, required: boolean): Refusal | null {
  if (required && comment.trim() === '') {
    return refuse('invalid', 'comment-missing', 'This library asks for a check-in comment. Say in a sentence what changed.');
  }
  if (comment.length > longestComment) {
    return refuse('invalid', 'comment-too-long',
      `The comment has ${comment.length} characters; the longest allowed has ${longestComment}. Shorten it.`,
      { length: comment.length, longest: longestComment });
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
  return refuse('invalid', 'moment-past', `A version cannot come into force at ${inForceFrom.toISOString()}, which is past. Name a later moment, or none.`,
    { inForceFrom: inForceFrom.toISOString() });
}

/** Refuses content larger than the library allows. */
export function refuseTooLarge(rules: Rulebook, size: number): Refusal | null {
  if (rules.maxFileBytes === null || size <= rules.maxFileBytes) return null;
  return refuse('invalid', 'file-too-large',
    `The file has ${size} bytes; this library takes files up to ${rules.maxFileBytes} bytes.`,
    { size, maxFileBytes: rules.maxFileBytes });
}

/** Refuses content that a library with an allowance has no room for. */
export function refuseFull(rules: Rulebook, bytesKept: number | null, size: number): Refusal | null {
  if (rules.allowanceBytes === null || bytesKept === null || bytesKept + size <= rules.allowanceBytes) return null;
  return refuse('conflict', 'library-full',
    `The library keeps ${bytesKept} of the ${rules.allowanceBytes} bytes it is allowed; the version needs ${size}. A controller can thin old versions, tighten the limits or raise the allowance.`,
    { bytesKept, allowanceBytes: rules.allowanceBytes, size });
}

/** The first refusal of several checks, in the order they stand. */
export function firstRefusal(...checks: (Refusal | null)[]): Refusal | null {
  return checks.find((check) => check !== null) ?? null;
}
