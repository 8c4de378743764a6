import { isRefusal, type Refusal, refuse } from '../document/refusal.ts';
import type { ContentFacts, Fields, Level, OriginKind, VersionNumber } from '../document/version.ts';
import { refuseFull } from '../rules/allowance.ts';
import { type ApprovalRun, callApprovers } from '../rules/approvalRun.ts';
import { fateOf } from '../rules/levels.ts';
import { formatLabel, numberToCome } from '../rules/numbering.ts';
import type { Actor } from '../rules/roles.ts';
import type { Rulebook } from '../rules/rulebook.ts';
import { noticeToDecide } from './notices.ts';
import { supersedeBefore } from './publication.ts';
import {
  type Change,
  type DocumentState,
  newVersion,
  type NewVersion,
  type Notice,
  sightFacts,
} from './state.ts';

/** What a new version is made of; number, state and standing follow from the level and the rules. */
export interface VersionMaking {
  level: Level;
  comment: string;
  origin: { kind: OriginKind; from: string | null };
  content: ContentFacts;
  fields: Fields;
  /** The holder wants to go on working. */
  keepCheckedOut?: boolean;
}

/** Where in the run of numbers a version is added: above the highest of an era, or first in it. */
export interface Place {
  highest: VersionNumber | null;
  era: number;
}

/**
 * A version to be stored. Asking for publication where approval is on makes the next draft, or under `whole`
 * and `none`, where there are no drafts, the next number; it keeps that when it is approved.
 */
export function makeVersion(
  rules: Rulebook,
  { highest, era }: Place,
  making: VersionMaking,
  by: { authorId: string; at: Date },
): NewVersion {
  const { level, comment, origin, content, fields } = making;
  const fate = fateOf(rules, level);
  const step = fate === 'submitted' && rules.numbering === 'stepped' ? 'minor' : level;
  const number = numberToCome(rules.numbering, highest, step, era);
  // Named one by one: what may be done is asked of every document on a page, and spreading takes ten times
  // as long.
  return {
    era: number.era,
    major: number.major,
    minor: number.minor,
    numbering: number.numbering,
    authorId: by.authorId,
    at: by.at,
    comment,
    origin,
    content,
    fields,
    state: fate === 'submitted' ? 'inApproval' : fate,
    standing: fate === 'published' ? 'inForce' : null,
    inForceFrom: fate === 'published' ? by.at : null,
  };
}

/** What adding a version comes to. */
export interface Addition {
  version: NewVersion;
  label: string;
  changes: Change[];
  notices: Notice[];
}

/** Contents that are there already add no bytes. */
const addsNoContent: readonly OriginKind[] = ['restore', 'fields'];
/** What takes the place of the saves it was made from. */
const endsSaves: readonly OriginKind[] = ['checkIn', 'save'];

/**
 * The changes that add a version to a document. A published one supersedes what was in force; one in approval
 * opens its run; an approval that was not used lapses, since it is of one version only.
 * @returns a refusal where nobody could decide, the holder wants to keep the document, or the library is full
 */
export function addVersion(
  state: DocumentState,
  actor: Actor,
  making: VersionMaking,
  now: Date,
): Addition | Refusal {
  const { rules, highest, presentEra, latest } = state;
  const full = refuseWithoutRoom(state, making);
  if (full) return full;
  const version = makeVersion(rules, { highest, era: presentEra }, making, { authorId: actor.id, at: now });
  const label = formatLabel(version, presentEra);
  const lapsed: Change[] =
    latest.state === 'approved' ? [{ kind: 'setState', versionId: latest.id, state: 'draft' }] : [];
  if (version.state !== 'inApproval') {
    const superseded = version.state === 'published' ? supersedeBefore(state, now) : [];
    const changes: Change[] = [...lapsed, ...superseded, { kind: 'addVersion', version }];
    return { version, label, changes, notices: [] };
  }
  if (making.keepCheckedOut) return refuseKeeping(rules, label);
  const facts = { ...sightFacts(state, latest), label, authorId: actor.id };
  const posts = callApprovers(rules, state.approvers, facts, state.ownerName);
  if (isRefusal(posts)) return posts;
  const run: ApprovalRun = {
    versionId: newVersion,
    mode: rules.approval.mode,
    submitterId: actor.id,
    submitterName: actor.name,
    submittedAt: now,
    comment: making.comment,
    inForceFrom: null,
    posts,
  };
  return {
    version,
    label,
    changes: [...lapsed, { kind: 'addVersion', version }, { kind: 'openRun', run }],
    notices: noticeToDecide(state.id, label, null, run),
  };
}

function refuseWithoutRoom(
  { rules, bytesKept, custody }: DocumentState,
  making: VersionMaking,
): Refusal | null {
  const { kind } = making.origin;
  if (addsNoContent.includes(kind) || bytesKept === null) return null;
  const freed = endsSaves.includes(kind) ? (custody?.bytesSaved ?? 0) : 0;
  return refuseFull(rules, bytesKept - freed, making.content.size);
}

function refuseKeeping(rules: Rulebook, label: string): Refusal {
  const instead = rules.numbering === 'stepped' ? ', or as a draft' : '';
  return refuse(
    'conflict',
    'kept-in-approval',
    `${label} would be in approval, and a document in approval cannot stay checked out. Check in without keeping it${instead}.`,
  );
}
