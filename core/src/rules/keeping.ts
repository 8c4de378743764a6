import type { Standing, State, Version } from '../document/version.ts';
import { before, durationWords, parseDuration } from './duration.ts';
import type { Rulebook } from './rulebook.ts';

/** What keeping needs to know of a version; times in milliseconds since 1970. */
export interface Keepable {
  id: string;
  state: State;
  standing: Standing | null;
  madeAt: number;
  /** When it was published; null for one that never was. */
  publishedAt: number | null;
  supersededAt: number | null;
  sheltered: boolean;
  thinned: boolean;
}

/** Versions of a document that stay whatever the limits say. */
export interface Protection {
  latestId: string;
  baseIds: readonly string[];
}

/** A library's limits at one moment. Null: no limit. */
export interface Limits {
  published: number | null;
  /** Drafts go once the version they led to has lost its content. */
  draftsFollow: boolean;
  /** Drafts go whose version was published at this moment or before. */
  draftsGoBefore: number | null;
  /** Of the drafts that stay, the newest of each published version. */
  newestDrafts: number | null;
  /** Nothing made, or superseded, after this goes; null spares nothing. */
  spareAfter: number | null;
}

/** The rule that lets a version go. */
export const keepRules = ['published', 'draftsStay', 'newestDrafts'] as const;
export type KeepRule = (typeof keepRules)[number];
/** A version the limits let go, and by which rule. */
export interface ToThin {
  id: string;
  rule: KeepRule;
}

type KeepRules = Pick<Rulebook, 'keep' | 'numbering'>;

/** Whether a version was published at some time; drafts of all kinds were not. */
export const wasPublished = (version: Pick<Keepable, 'state'>): boolean =>
  version.state === 'published' || version.state === 'withdrawn';

/**
 * When a version was published: a stepped one was made by that, another kept its number and came, or comes,
 * into force then. Null for one that never was.
 */
export function publicationOf(
  version: Pick<Version, 'state' | 'numbering' | 'at' | 'inForceFrom'>,
): Date | null {
  if (!wasPublished(version)) return null;
  return version.numbering === 'stepped' ? version.at : (version.inForceFrom ?? version.at);
}

/** A version as keeping looks at it. */
export function keepable(version: Version): Keepable {
  return {
    id: version.id,
    state: version.state,
    standing: version.standing,
    madeAt: version.at.getTime(),
    publishedAt: publicationOf(version)?.getTime() ?? null,
    supersededAt: version.supersededAt?.getTime() ?? null,
    sheltered: version.sheltered,
    thinned: version.thinned !== null,
  };
}

/** The limits as they are at a moment. Under `none` there is one current version: what it replaces goes. */
export function limitsAt(rules: KeepRules, now: Date): Limits {
  const { published, drafts, spareYoungerThan } = rules.keep;
  const stay = parseDuration(drafts.stay);
  const spare = spareYoungerThan === null ? null : parseDuration(spareYoungerThan);
  const untilPublished = drafts.stay === 'untilPublished' ? Infinity : null;
  return {
    published: rules.numbering === 'none' ? 0 : published,
    draftsFollow: drafts.stay === 'withTheirVersion',
    draftsGoBefore: stay ? before(now, stay).getTime() : untilPublished,
    newestDrafts: drafts.newest,
    spareAfter: spare && before(now, spare).getTime(),
  };
}

/** Whether the rules can thin anything at all. */
export function limitsAnything(limits: Limits): boolean {
  const { published, draftsFollow, draftsGoBefore, newestDrafts } = limits;
  return draftsFollow || published !== null || draftsGoBefore !== null || newestDrafts !== null;
}

/** What the drafts passed on the way back in time led to. */
interface TheirVersion {
  publishedAt: number;
  hasContent: boolean;
}

/**
 * The versions of one document that its library's limits let go (docs/rules.md, Keeping). Versions that are
 * protected use up no place; those without content neither. Counts from the newest, in one pass.
 * @param versions oldest first
 */
export function versionsToThin(
  versions: readonly Keepable[],
  protection: Protection,
  limits: Limits,
): ToThin[] {
  const found: ToThin[] = [];
  const stays = (version: Keepable): boolean =>
    version.thinned || isProtected(version, protection, limits.spareAfter);
  let newestPublishedPassed = false;
  let keptPublished = 0;
  let keptDrafts = 0;
  // Drafts after the last publication led to nothing yet: work in hand.
  let theirs: TheirVersion | null = null;
  for (const version of versions.toReversed()) {
    if (!wasPublished(version)) {
      if (theirs === null || stays(version)) continue;
      const rule: KeepRule | null = draftRule(theirs, keptDrafts, limits);
      if (rule) found.push({ id: version.id, rule });
      else keptDrafts += 1;
      continue;
    }
    const newest: boolean = version.state === 'published' && !newestPublishedPassed;
    newestPublishedPassed ||= newest;
    const counts: boolean = limits.published !== null && !newest && !stays(version);
    const goes: boolean = counts && keptPublished >= (limits.published ?? Infinity);
    if (goes) found.push({ id: version.id, rule: 'published' });
    else if (counts) keptPublished += 1;
    keptDrafts = 0;
    theirs = { publishedAt: version.publishedAt ?? version.madeAt, hasContent: !version.thinned && !goes };
  }
  return found.reverse();
}

function draftRule(theirs: TheirVersion, kept: number, limits: Limits): KeepRule | null {
  if (limits.draftsFollow && !theirs.hasContent) return 'draftsStay';
  if (limits.draftsGoBefore !== null && theirs.publishedAt <= limits.draftsGoBefore) return 'draftsStay';
  return limits.newestDrafts !== null && kept >= limits.newestDrafts ? 'newestDrafts' : null;
}

/**
 * Whether nothing may thin this version: what is in use, sheltered, or too young.
 * @param spareAfter nothing made, or superseded, after this moment goes; null spares nothing
 */
export function isProtected(version: Keepable, protection: Protection, spareAfter: number | null): boolean {
  if (version.sheltered || version.state === 'approved' || version.state === 'inApproval') return true;
  if (version.standing === 'inForce' || version.standing === 'scheduled') return true;
  if (version.id === protection.latestId || protection.baseIds.includes(version.id)) return true;
  if (spareAfter === null) return false;
  const since = wasPublished(version) ? (version.supersededAt ?? version.madeAt) : version.madeAt;
  return since > spareAfter;
}

const many = (count: number | null, word: string): string => `${count} ${word}${count === 1 ? '' : 's'}`;

/** When drafts go, as the Rulebook reads: "Drafts go 30 days after the version they led to is published." */
export function draftsSentence(stay: string): string {
  const duration = parseDuration(stay);
  if (duration) return `Drafts go ${durationWords(duration)} after the version they led to is published.`;
  const sentences: Record<string, string> = {
    untilPublished: 'Drafts go when the version they led to is published.',
    withTheirVersion: 'Its published version was thinned; its drafts go with it.',
  };
  return sentences[stay] ?? 'Drafts stay.';
}

/** Why a version was thinned, in a sentence that stays with its row. */
export function ruleSentence(rule: KeepRule, rules: KeepRules): string {
  const { published, drafts } = rules.keep;
  switch (rule) {
    case 'published':
      return rules.numbering === 'none'
        ? 'Documents here have one current version; its content was replaced.'
        : `Over the limit of ${many(published, 'published version')} besides what is in force.`;
    case 'draftsStay':
      return draftsSentence(drafts.stay);
    case 'newestDrafts':
      return `Over the limit of ${many(drafts.newest, 'draft')} for each published version.`;
  }
}
