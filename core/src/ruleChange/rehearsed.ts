import { reduce } from '../acts/reduce.ts';
import type { Custody, DocumentState, Named } from '../acts/state.ts';
import type { ContentFacts, Version, VersionNumber } from '../document/version.ts';
import { type ApprovalRun, openPost } from '../rules/approvalRun.ts';
import { type Keepable, keepable } from '../rules/keeping.ts';
import type { Rulebook } from '../rules/rulebook.ts';
import { takeUpRules } from './takeUpRules.ts';

/** A version as a change of rules looks at it. */
export interface RehearsedVersion extends Keepable, VersionNumber {
  authorId: string;
  size: number;
}

/** A document with all its versions, oldest first, and what is under way on it. */
export interface RehearsedDocument {
  id: string;
  number: string;
  title: string;
  ownerId: string;
  coAuthorIds: readonly string[];
  /** People and groups it is kept to, as `DocumentState` has them. */
  limit: Named | null;
  /** Approvers named on the document itself. */
  approverIds: readonly string[];
  presentEra: number;
  highest: VersionNumber;
  versions: readonly RehearsedVersion[];
  custody: { holderId: string; holderName: string; baseId: string } | null;
  /** Bases of copies that were set aside. */
  setAsideBaseIds: readonly string[];
  /** Names the open approval run waits for; null where there is none. */
  waitingFor: readonly string[] | null;
}

/**
 * The latest version of a rehearsed document. @throws Error for a document without any, which there is not
 */
export function latestOf(document: RehearsedDocument): RehearsedVersion {
  const latest = document.versions.at(-1);
  if (!latest) throw new Error(`${document.number} has no version`);
  return latest;
}

/** A rehearsed document right after the rules are taken up, before thinning. */
export interface AfterRules {
  versions: readonly Keepable[];
  latestId: string;
  baseIds: readonly string[];
  highest: VersionNumber;
  presentEra: number;
  /** Whether a new era was opened. */
  opened: boolean;
}

/** A document as it is, for rules that change nothing of it but what is kept. */
export function untouchedBy(document: RehearsedDocument): AfterRules {
  const { custody, setAsideBaseIds, versions, highest, presentEra } = document;
  const baseIds = [...(custody ? [custody.baseId] : []), ...setAsideBaseIds];
  return { versions, latestId: latestOf(document).id, baseIds, highest, presentEra, opened: false };
}

/**
 * What taking up the rules makes of a document: the same decision, and the same reducer, as applying them.
 */
export function afterRules(
  document: RehearsedDocument,
  before: Rulebook,
  after: Rulebook,
  now: Date,
): AfterRules {
  const state = stateOf(document, before, now);
  const decision = takeUpRules(state, after, '', now);
  if (!decision) return untouchedBy(document);
  let added = 0;
  const newId = (): string => {
    added += 1;
    return `${document.id} new ${added}`;
  };
  const reduced = reduce(state, decision.changes, { newId, versions: document.versions.map(versionOf) });
  const changed = new Map(reduced.versions.map((change) => [change.after.id, keepable(change.after)]));
  const news = reduced.versions.flatMap((change) => (change.before ? [] : [keepable(change.after)]));
  const { custody, latest, highest, presentEra, setAsideBaseIds } = reduced.state;
  return {
    versions: [...document.versions.map((version) => changed.get(version.id) ?? version), ...news],
    latestId: latest.id,
    baseIds: [...(custody ? [custody.base.id] : []), ...setAsideBaseIds],
    highest,
    presentEra,
    opened: presentEra !== document.presentEra,
  };
}

/** Content nobody asks about while rules are rehearsed. */
const contentOf = (size: number): ContentFacts => ({
  sha256: '',
  size,
  fileName: '',
  mediaType: '',
  words: null,
});
const dateOf = (at: number | null): Date | null => (at === null ? null : new Date(at));

/** A version as acts look at it, as far as it is known here. */
function versionOf(version: RehearsedVersion, index: number): Version {
  const { madeAt, publishedAt, supersededAt, thinned, size, ...rest } = version;
  return {
    ...rest,
    sequence: index + 1,
    at: new Date(madeAt),
    comment: '',
    origin: { kind: 'upload', from: null },
    content: contentOf(size),
    fields: { title: '' },
    inForceFrom: dateOf(publishedAt),
    supersededAt: dateOf(supersededAt),
    withdrawn: null,
    thinned: thinned ? { at: new Date(madeAt), until: new Date(madeAt), why: '' } : null,
  };
}

function stateOf(document: RehearsedDocument, rules: Rulebook, now: Date): DocumentState {
  const versions = document.versions.map(versionOf);
  const latest = versions.at(-1);
  if (!latest) throw new Error(`${document.number} has no version`);
  const custodyOf = ({
    holderId,
    holderName,
    baseId,
  }: NonNullable<RehearsedDocument['custody']>): Custody => ({
    holderId,
    holderName,
    since: now,
    until: null,
    reason: null,
    base: versions.find(({ id }) => id === baseId) ?? latest,
    workingCopy: null,
    saves: 0,
    bytesSaved: 0,
    lastSavedAt: null,
    sitting: null,
    door: 'web',
    lock: null,
    askedAt: null,
  });
  const run: ApprovalRun = {
    versionId: latest.id,
    mode: rules.approval.mode,
    submitterId: '',
    submitterName: '',
    submittedAt: now,
    comment: '',
    inForceFrom: null,
    posts: (document.waitingFor ?? []).map((name) => openPost({ id: '', name })),
  };
  return {
    id: document.id,
    number: document.number,
    ownerId: document.ownerId,
    ownerName: '',
    coAuthorIds: document.coAuthorIds,
    administrative: {},
    templateFor: null,
    limit: document.limit,
    voided: null,
    distribution: null,
    presentEra: document.presentEra,
    latest,
    inForce: versions.find(({ standing }) => standing === 'inForce') ?? null,
    scheduled: versions.filter(({ standing }) => standing === 'scheduled'),
    approval: document.waitingFor === null ? null : run,
    approvers: [],
    highest: document.highest,
    custody: document.custody ? custodyOf(document.custody) : null,
    setAsideBaseIds: document.setAsideBaseIds,
    rules,
    bytesKept: null,
  };
}
