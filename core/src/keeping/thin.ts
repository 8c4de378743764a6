import type { Rulebook } from '../policy/rulebook.ts';
import type { Standing, State } from '../versions/version.ts';
import { before, parseDuration } from './duration.ts';

/** What keeping needs to know of a version; times in milliseconds since 1970. */
export interface Keepable {
  id: string;
  state: State;
  standing: Standing | null;
  madeAt: number;
  supersededAt: number | null;
  sheltered: boolean;
  thinned: boolean;
}

/** Versions of a document that stay whatever the limits say. */
export interface Protection { latestId: string; baseIds: readonly string[] }

/** A library's limits at one moment. Null: no limit. */
export interface Limits {
  published: number | null;
  draftsOutlive: number | null;
  draftsPerMajor: number | null;
  /** Nothing made, or superseded, after this goes; null spares nothing. */
  spareAfter: number | null;
}

export type KeepRule = 'published' | 'draftsOutlive' | 'draftsPerMajor';
export interface ToThin { id: string; rule: KeepRule }

/** The limits as they are at a moment. Under `none` there is one current version: what it replaces goes. */
export function limitsAt(rules: Pick<Rulebook, 'keep' | 'numbering'>, now: Date): Limits {
  const { published, draftsOutlive, draftsPerMajor, spareYoungerThan } = rules.keep;
  const spare = spareYoungerThan === null ? null : parseDuration(spareYoungerThan);
  return {
    published: rules.numbering === 'none' ? 0 : published, draftsOutlive, draftsPerMajor,
    spareAfter: spare && before(now, spare).getTime(),
  };
}

/** Whether the rules can thin anything at all. */
export function limitsAnything(limits: Limits): boolean {
  return limits.published !== null || limits.draftsOutlive !== null || limits.draftsPerMajor !== null;
}

/** Whether a version was published at some time; drafts of all kinds were not. */
export const wasPublished = (version: Pick<Keepable, 'state'>): boolean => version.state === 'published' || version.state === 'withdrawn';

/**
 * The versions of one document that its library's limits let go (docs/rules.md, Keeping). Versions that are protected use up no
 * place; those without content neither. Counts from the newest, in one pass.
 * @param versions oldest first
 */
export function versionsToThin(versions: readonly Keepable[], protection: Protection, limits: Limits): ToThin[] {
  const found: ToThin[] = [];
  let publications = 0;
  let newestPublishedPassed = false;
  let keptPublished = 0;
  let keptOfGroup = 0;
  for (let index = versions.length - 1; index >= 0; index -= 1) {
    const version = versions[index] as Keepable;
    if (wasPublished(version)) {
      const newest: boolean = version.state === 'published' && !newestPublishedPassed;
      newestPublishedPassed ||= newest;
      publications += 1;
      keptOfGroup = 0;
      if (limits.published === null || newest || version.thinned || isProtected(version, protection, limits)) continue;
      if (keptPublished < limits.published) keptPublished += 1;
      else found.push({ id: version.id, rule: 'published' });
    } else {
      // Drafts after the last publication are the open group: work in hand.
      if (publications === 0 || version.thinned || isProtected(version, protection, limits)) continue;
      if (limits.draftsOutlive !== null && publications > limits.draftsOutlive) found.push({ id: version.id, rule: 'draftsOutlive' });
      else if (limits.draftsPerMajor !== null && keptOfGroup >= limits.draftsPerMajor) found.push({ id: version.id, rule: 'draftsPerMajor' });
      else keptOfGroup += 1;
    }
  }
  return found.reverse();
}

/** Whether nothing may thin this version: what is in use, sheltered, or too young. */
export function isProtected(version: Keepable, protection: Protection, limits: Pick<Limits, 'spareAfter'>): boolean {
  if (version.sheltered || version.state === 'approved' || version.state === 'inApproval') return true;
  if (version.standing === 'inForce' || version.standing === 'scheduled') return true;
  if (version.id === protection.latestId || protection.baseIds.includes(version.id)) return true;
  if (limits.spareAfter === null) return false;
  const since = wasPublished(version) ? version.supersededAt ?? version.madeAt : version.madeAt;
  return since > limits.spareAfter;
}
