import { callApprovers, type Post } from '../approval/run.ts';
import { formatLabel, numberToCome } from '../numbering/number.ts';
import type { Actor } from '../policy/roles.ts';
import type { Rulebook } from '../policy/rulebook.ts';
import { type Change, type DocumentState, newVersion, type NewVersion, refuseFull, sightFacts } from './document.ts';
import { isRefusal, refuse, type Refusal } from './refusal.ts';
import type { ContentFacts, Fields, Level, OriginKind, Version, VersionNumber } from './version.ts';

/** What a new version is made of; number, state and standing follow from the level and the rules. */
export interface VersionMaking {
  level: Level;
  authorId: string;
  comment: string;
  origin: { kind: OriginKind; from: string | null };
  content: ContentFacts;
  fields: Fields;
}

/** In `whole` and `none` there is no minor level. */
export function refuseLevel(rules: Rulebook, level: Level): Refusal | null {
  if (rules.numbering === 'stepped' || level === 'major') return null;
  return refuse('invalid', 'no-minor-level', rules.numbering === 'whole'
    ? 'This library numbers versions 1, 2, 3; there is no minor level. Choose major.'
    : 'This library gives versions no numbers; there is no minor level. Choose major.');
}

/** What becomes of a version of this level: a draft, one that its approvers are asked about, or a published one. */
export function landingOf(rules: Rulebook, level: Level): 'draft' | 'submitted' | 'published' {
  if (level === 'minor') return 'draft';
  return rules.approval.on ? 'submitted' : 'published';
}

/**
 * A version to be stored. Asking for publication where approval is on makes the next draft, or under `whole` and `none`, where there are
 * no drafts, the next number; it keeps that when it is approved.
 */
export function makeVersion(rules: Rulebook, highest: VersionNumber | null, making: VersionMaking, now: Date, era = 1): NewVersion {
  const landing = landingOf(rules, making.level);
  const { level, ...rest } = making;
  const step = landing === 'submitted' && rules.numbering === 'stepped' ? 'minor' : level;
  return {
    ...rest,
    ...numberToCome(rules.numbering, highest, step, era),
    at: now,
    state: landing === 'submitted' ? 'inApproval' : landing,
    standing: landing === 'published' ? 'inForce' : null,
    inForceFrom: landing === 'published' ? now : null,
  };
}

export interface Addition { version: NewVersion; label: string; changes: Change[]; posts: Post[] }

/**
 * The changes that add a version to a document. A published one supersedes what was in force; one in approval opens its run; an approval
 * that was not used lapses, since it is of one version only.
 * @returns a refusal where nobody could decide, the holder wants to keep the document, or the library is full
 */
export function addVersion(state: DocumentState, actor: Actor, making: VersionMaking, now: Date, keepCheckedOut = false): Addition | Refusal {
  const version = makeVersion(state.rules, state.highest, making, now, state.presentEra);
  const label = formatLabel(version, state.presentEra);
  const full = making.origin.kind === 'restore' || making.origin.kind === 'fields' ? null : refuseFull(state.rules, state.bytesKept, making.content.size);
  if (full) return full;
  const changes: Change[] = [];
  if (state.latest.state === 'approved') changes.push({ kind: 'setState', versionId: state.latest.id, state: 'draft' });
  if (version.state !== 'inApproval') {
    if (version.state === 'published') changes.push(...supersedeBefore(state, now));
    return { version, label, changes: [...changes, { kind: 'addVersion', version }], posts: [] };
  }
  if (keepCheckedOut) {
    return refuse('conflict', 'kept-in-approval', `${label} would be in approval, and a document in approval cannot stay checked out. Check in without keeping it${state.rules.numbering === 'stepped' ? ', or as a draft' : ''}.`);
  }
  const posts = callApprovers(state.rules, state.approvers, { ...sightFacts(state, state.latest), label, authorId: making.authorId }, state.ownerName);
  if (isRefusal(posts)) return posts;
  changes.push({ kind: 'addVersion', version }, {
    kind: 'openRun',
    run: { versionId: newVersion, mode: state.rules.approval.mode, submitterId: actor.id, submittedAt: now, comment: making.comment, inForceFrom: null, posts },
  });
  return { version, label, changes, posts };
}

/** What a new version in force supersedes: the one in force, and any scheduled before it. */
function supersedeBefore(state: Pick<DocumentState, 'inForce' | 'scheduled'>, at: Date, beforeSequence = Infinity): Change[] {
  return [...(state.inForce ? [state.inForce] : []), ...state.scheduled]
    .filter((version) => version.sequence < beforeSequence)
    .map((version) => ({ kind: 'supersede', versionId: version.id, at }));
}

/** Whether a draft bears a number that it keeps when published: under `whole` and `none` there is no other for it. */
export const keepsNumber = (version: Pick<Version, 'numbering'>): boolean => version.numbering !== 'stepped';

/**
 * The changes that publish a draft: a new x.0 with its content, the draft staying a draft; a number given under `whole` or `none` is
 * published as it is. At once, or scheduled where a later moment is given.
 */
export function publication(
  state: DocumentState, draft: Version, by: { authorId: string; comment: string; inForceFrom: Date | null }, now: Date,
): { label: string; changes: Change[]; inForceFrom: Date; adds: boolean } {
  const later = by.inForceFrom !== null && by.inForceFrom.getTime() > now.getTime() ? by.inForceFrom : null;
  const inForceFrom = later ?? now;
  if (keepsNumber(draft)) {
    const force: Change[] = later
      ? [{ kind: 'schedule', versionId: draft.id, inForceFrom: later }]
      : [...supersedeBefore(state, now), { kind: 'comeIntoForce', versionId: draft.id, at: now }];
    return { label: formatLabel(draft, state.presentEra), inForceFrom, adds: false, changes: [{ kind: 'setState', versionId: draft.id, state: 'published' }, ...force] };
  }
  const version: NewVersion = {
    ...numberToCome(state.rules.numbering, state.highest, 'major', state.presentEra),
    state: 'published', standing: later ? 'scheduled' : 'inForce', authorId: by.authorId, at: now, comment: by.comment,
    origin: { kind: 'publish', from: draft.id }, content: draft.content, fields: draft.fields, inForceFrom,
  };
  const back: Change[] = draft.state === 'draft' || draft.state === 'rejected' ? [] : [{ kind: 'setState', versionId: draft.id, state: 'draft' }];
  return {
    label: formatLabel(version, state.presentEra), inForceFrom, adds: true,
    changes: [...back, ...(later ? [] : supersedeBefore(state, now)), { kind: 'addVersion', version }],
  };
}

/** What time alone changes: scheduled versions whose moment has come are in force from that moment. Empty when none. */
export function dueChanges(state: Pick<DocumentState, 'inForce' | 'scheduled'>, now: Date): Change[] {
  const changes: Change[] = [];
  let { inForce, scheduled } = state;
  const due = scheduled.filter((version) => version.inForceFrom !== null && version.inForceFrom.getTime() <= now.getTime())
    .sort((a, b) => (a.inForceFrom?.getTime() ?? 0) - (b.inForceFrom?.getTime() ?? 0) || a.sequence - b.sequence);
  for (const version of due) {
    if (!scheduled.includes(version)) continue;
    const at = version.inForceFrom as Date;
    const others = scheduled.filter((other) => other !== version);
    changes.push(...supersedeBefore({ inForce, scheduled: others }, at, version.sequence), { kind: 'comeIntoForce', versionId: version.id, at });
    inForce = version;
    scheduled = others.filter((other) => other.sequence > version.sequence);
  }
  return changes;
}

/** The labels to come, for the level buttons and ghost points, and what becomes of a major one. */
export interface ToCome {
  /** Null under numbers without a minor level. */
  minor: string | null;
  /** What publication would be numbered, now or once approved. */
  major: string;
  /** The number a version of level major has while it is in approval; null where it is published at once. */
  submittedAs: string | null;
}

/** The labels the next version would get. */
export function labelsToCome(state: Pick<DocumentState, 'rules' | 'highest' | 'presentEra'>): ToCome {
  const label = (level: Level): string =>
    formatLabel(numberToCome(state.rules.numbering, state.highest, level, state.presentEra), state.presentEra);
  const stepped = state.rules.numbering === 'stepped';
  const major = label('major');
  return { minor: stepped ? label('minor') : null, major, submittedAs: state.rules.approval.on ? (stepped ? label('minor') : major) : null };
}
