import { formatLabel } from '../numbering/number.ts';
import type { Rulebook } from '../policy/rulebook.ts';
import type { Decision, DocumentState } from '../versions/document.ts';
import type { Version } from '../versions/version.ts';
import { type Keepable, type KeepRule, limitsAnything, limitsAt, type Protection, versionsToThin } from './thin.ts';

const dayInMilliseconds = 86_400_000;

/** A version as keeping looks at it. */
export function keepable(version: Version): Keepable {
  return {
    id: version.id, state: version.state, standing: version.standing, madeAt: version.at.getTime(),
    supersededAt: version.supersededAt?.getTime() ?? null, sheltered: version.sheltered, thinned: version.thinned !== null,
  };
}

/** What of a document stays whatever the limits say. */
export function protectionOf(state: Pick<DocumentState, 'latest' | 'custody' | 'setAsideBaseIds'>): Protection {
  return { latestId: state.latest.id, baseIds: [...(state.custody ? [state.custody.base.id] : []), ...state.setAsideBaseIds] };
}

/** Until when thinned content can be recovered. */
export function shelfEnd(rules: Pick<Rulebook, 'graceDays'>, now: Date): Date {
  return new Date(now.getTime() + rules.graceDays * dayInMilliseconds);
}

/** Why a version was thinned, in a sentence that stays with its row. */
export function ruleSentence(rule: KeepRule, rules: Pick<Rulebook, 'keep' | 'numbering'>): string {
  const many = (count: number | null, word: string): string => `${count} ${word}${count === 1 ? '' : 's'}`;
  switch (rule) {
    case 'published':
      if (rules.numbering === 'none') return 'Documents here have one current version; its content was replaced.';
      return `Beside what is in force, ${many(rules.keep.published, 'published version')} stay${rules.keep.published === 1 ? 's' : ''}.`;
    case 'draftsOutlive': return `Drafts outlive ${many(rules.keep.draftsOutlive, 'publication')}.`;
    case 'draftsPerMajor': return `Of the drafts before a publication ${many(rules.keep.draftsPerMajor, 'newest draft')} stay${rules.keep.draftsPerMajor === 1 ? 's' : ''}.`;
  }
}

/**
 * Thins a document by its library's rules; null when nothing goes. The same whatever called for it: a publication, a check-in, a
 * change of rules, or the sweep.
 * @param versions all of the document's, oldest first
 */
export function keep(state: DocumentState, versions: readonly Version[], now: Date): Decision | null {
  const limits = limitsAt(state.rules, now);
  if (!limitsAnything(limits)) return null;
  const going = versionsToThin(versions.map(keepable), protectionOf(state), limits);
  if (going.length === 0) return null;
  const byId = new Map(versions.map((version) => [version.id, version]));
  const until = shelfEnd(state.rules, now);
  return {
    changes: going.map(({ id, rule }) => ({ kind: 'thin', versionId: id, thinned: { at: now, until, why: ruleSentence(rule, state.rules) } })),
    ledger: {
      act: 'thin',
      facts: { versions: going.map(({ id }) => formatLabel(byId.get(id) as Version, state.presentEra)), rules: [...new Set(going.map(({ rule }) => rule))], until: until.toISOString() },
    },
  };
}
