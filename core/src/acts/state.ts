import type { Refusal } from '../document/refusal.ts';
import type { OwnValues } from '../document/fieldValue.ts';
import type { ContentFacts, State, Thinned, Version, VersionNumber, Withdrawn } from '../document/version.ts';
import type { ApprovalDecision, ApprovalRun, Approver, RunOutcome } from '../rules/approvalRun.ts';
import { formatLabel } from '../rules/numbering.ts';
import type { Rulebook } from '../rules/rulebook.ts';
import type { SightFacts } from '../rules/sight.ts';

/** Through which door a document was checked out: the page and its interface, or the drive. */
export const doors = ['web', 'drive'] as const;
export type Door = (typeof doors)[number];

/** A document is open in a program, which keeps it from the holder's other programs (RFC 4918, 6). */
export interface ProgramLock {
  token: string;
  /** Who the program says it is, as it was sent: XML. */
  owner: string;
  until: Date;
}

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
  /** Bytes of all saves. */
  bytesSaved: number;
  lastSavedAt: Date | null;
  /** The sitting in which the last save was kept by itself; null where a person saved it. */
  sitting: string | null;
  door: Door;
  /** Null where no program has it open; one that is over counts no more, until it is looked at. */
  lock: ProgramLock | null;
  /**
   * Since when its holder is asked what becomes of what a program saved; null while it is open there, or
   * where nothing is asked.
   */
  askedAt: Date | null;
}

/** People and groups that were named, and who that is now. */
export interface Named {
  personIds: readonly string[];
  groupIds: readonly string[];
  /** The people named, and those of the groups. */
  memberIds: readonly string[];
}

/** That a document was registered by mistake: said by whom, when and why. */
export interface Voided {
  at: Date;
  byId: string;
  reason: string;
}

/** What a decision about one document is taken on. */
export interface DocumentState {
  id: string;
  number: string;
  ownerId: string;
  ownerName: string;
  coAuthorIds: readonly string[];
  /** Values of fields that belong to the document and to none of its versions. */
  administrative: OwnValues;
  /** The type of documents that begin as a copy of it; null where it is no template. */
  templateFor: string | null;
  /** To whom it is kept, beside its owner, co-authors and controllers; null: to nobody in particular. */
  limit: Named | null;
  /** That it was voided; null where it stands. Its number stays its own. */
  voided: Voided | null;
  /** Who is told of a new version in force, and confirms having read it; null: nobody. */
  distribution: Named | null;
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
  /**
   * Bytes the library keeps, of versions, saves and copies set aside; null where it has no allowance to hold
   * against them.
   */
  bytesKept: number | null;
}

/** A version to be stored; the store gives it id and sequence. */
export type NewVersion = Omit<
  Version,
  'id' | 'sequence' | 'thinned' | 'sheltered' | 'supersededAt' | 'withdrawn'
>;

/** Stands for the version added in the same decision, wherever a change names a version. */
export const newVersion = 'new';

/** How a check-out ended. */
export const custodyEnds = ['checkedIn', 'givenBack', 'lifted', 'handedOver'] as const;
export type CustodyEnd = (typeof custodyEnds)[number];

/** What a review comes to: what is in force holds on, or is to be changed. */
export const reviewOutcomes = ['confirmed', 'opened'] as const;
export type ReviewOutcome = (typeof reviewOutcomes)[number];

/** A review of what is in force. */
export interface Review {
  outcome: ReviewOutcome;
  comment: string;
  /** By when it is to be reviewed next, an ISO 8601 calendar date; null: by no date. */
  nextBy: string | null;
}

/** The people of a document, as they are to be; null leaves them as they are. */
export interface PeopleChange {
  owner: { id: string; name: string } | null;
  coAuthorIds: readonly string[] | null;
  /** The document's own approvers, and who is asked then: those, or the library's where there are none. */
  approvers: { own: readonly string[]; asked: readonly Approver[] } | null;
}

/**
 * What a decision changes; `reduce` says what that makes of a document, and the store keeps it in one
 * transaction.
 */
export type Change =
  | { kind: 'addVersion'; version: NewVersion }
  | { kind: 'setState'; versionId: string; state: State }
  /** Publishes a version under the number it has. */
  | { kind: 'schedule'; versionId: string; inForceFrom: Date }
  | { kind: 'comeIntoForce'; versionId: string; at: Date }
  | { kind: 'supersede'; versionId: string; at: Date }
  | { kind: 'withdraw'; versionId: string; withdrawn: Withdrawn }
  /** An earlier published version is in force again, under its own number. */
  | { kind: 'reinstate'; versionId: string; at: Date }
  | { kind: 'openRun'; run: ApprovalRun }
  | { kind: 'decidePost'; personId: string; decision: ApprovalDecision; at: Date; comment: string }
  /** A controller decides in the place of those asked: with a post of their own, at the end. */
  | {
      kind: 'decideInPlace';
      personId: string;
      name: string;
      decision: ApprovalDecision;
      at: Date;
      comment: string;
    }
  | { kind: 'closeRun'; outcome: RunOutcome; at: Date }
  /** Somebody is asked in another's place. */
  | { kind: 'replacePost'; fromId: string; to: { id: string; name: string } }
  | { kind: 'thin'; versionId: string; thinned: Thinned }
  | { kind: 'recover'; versionId: string }
  | { kind: 'shelter'; versionId: string; sheltered: boolean }
  | ({ kind: 'openCustody'; baseId: string } & Pick<
      Custody,
      'holderId' | 'holderName' | 'since' | 'until' | 'reason' | 'door'
    >)
  | { kind: 'setUntil'; until: Date | null }
  /** A save; one kept by itself takes the place of the one before of the same sitting. */
  | { kind: 'saveWorkingCopy'; content: ContentFacts; at: Date; sitting: string | null; replaces: boolean }
  | { kind: 'emptyWorkingCopy' }
  /** A program has it open, or none any more. */
  | { kind: 'setLock'; lock: ProgramLock | null }
  /** The holder is asked what becomes of what was saved, or not any more. */
  | { kind: 'setAsked'; at: Date | null }
  | { kind: 'moveBase'; to: 'new' }
  /** Moves the working copy with its saves to the holder's Desk. */
  | { kind: 'setAside'; reason: string }
  | { kind: 'closeCustody'; how: CustodyEnd; reason: string | null }
  /** Another holds the document from now on, with the same base and saves. */
  | { kind: 'passCustody'; holderId: string; holderName: string; at: Date; reason: string }
  /** Copies set aside for one person are another's. */
  | { kind: 'passAside'; fromId: string; toId: string }
  | ({ kind: 'setPeople' } & PeopleChange)
  /** All values that belong to the document itself, as they are to be. */
  | { kind: 'setAdministrative'; values: OwnValues }
  /** The document is the template of a type, or of none. */
  | { kind: 'setTemplate'; type: string | null }
  /** The document is kept to these and no others; null: to nobody in particular. */
  | { kind: 'setLimit'; limit: Named | null }
  /** The document is void, or stands again. */
  | { kind: 'setVoided'; voided: Voided | null }
  /** These are to read what comes into force; null: nobody. */
  | { kind: 'setDistribution'; distribution: Named | null; at: Date }
  /** Somebody confirmed having read a version. */
  | { kind: 'confirmRead'; versionId: string; personId: string; at: Date }
  /** What is in force was reviewed. */
  | ({ kind: 'review'; reviewedId: string; at: Date } & Review);

/** What people are told of an act, once: `about` names the occasion. */
export interface Notice {
  kind:
    | 'lifted'
    | 'rejected'
    | 'approved'
    | 'toDecide'
    | 'handedOver'
    | 'replaced'
    | 'putInPlace'
    | 'decidedForYou'
    | 'withdrawn'
    | 'reinstated'
    | 'reviewed'
    | 'reviewDue'
    | 'published'
    | 'toRead'
    | 'toReadStill'
    | 'toFinish';
  personIds: readonly string[];
  about: string;
  facts: Record<string, string | null>;
}

/** An accepted command: what changes, what the Ledger says of it, and who is told. */
export interface Decision {
  refused?: false;
  changes: readonly Change[];
  /** Null for what the Ledger need not tell: a save kept by itself within one sitting. */
  ledger: { act: string; facts: Record<string, unknown> } | null;
  notices?: readonly Notice[];
}

/** What an act answers: what it changes, or why not. */
export type Outcome = Decision | Refusal;

/** A version's label as it is written in this document now. */
export const labelIn = (state: Pick<DocumentState, 'presentEra'>, version: VersionNumber): string =>
  formatLabel(version, state.presentEra);

/** Whom a limited document is kept to, controllers aside; null where it is not limited. */
export const circleOf = ({
  limit,
  ownerId,
  coAuthorIds,
}: Pick<DocumentState, 'limit' | 'ownerId' | 'coAuthorIds'>): string[] | null =>
  limit && [...new Set([...limit.memberIds, ownerId, ...coAuthorIds])];

/** What of a version decides who sees it. */
export type Sighted = VersionNumber & Pick<Version, 'state' | 'standing' | 'thinned' | 'authorId'>;

/** What sight needs to know of one of the document's versions. */
export function sightFacts(
  state: Pick<DocumentState, 'presentEra' | 'ownerId' | 'coAuthorIds' | 'custody' | 'limit' | 'voided'>,
  version: Sighted,
): SightFacts {
  return {
    label: labelIn(state, version),
    state: version.state,
    standing: version.standing,
    thinned: version.thinned !== null,
    authorId: version.authorId,
    ownerId: state.ownerId,
    coAuthorIds: state.coAuthorIds,
    holderId: state.custody?.holderId ?? null,
    circle: circleOf(state),
    voided: state.voided !== null,
  };
}
