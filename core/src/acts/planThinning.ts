import {
  keepable,
  limitsAnything,
  limitsAt,
  type Protection,
  ruleSentence,
  versionsToThin,
} from '../rules/keeping.ts';
import type { Rulebook } from '../rules/rulebook.ts';
import type { Version } from '../document/version.ts';
import { type Decision, type DocumentState, labelIn } from './state.ts';

const dayInMilliseconds = 86_400_000;

/** What of a document stays whatever the limits say. */
export function protectionOf(
  state: Pick<DocumentState, 'latest' | 'custody' | 'setAsideBaseIds'>,
): Protection {
  const base = state.custody ? [state.custody.base.id] : [];
  return { latestId: state.latest.id, baseIds: [...base, ...state.setAsideBaseIds] };
}

/** Until when thinned content can be recovered. */
export function shelfEnd(rules: Pick<Rulebook, 'graceDays'>, now: Date): Date {
  return new Date(now.getTime() + rules.graceDays * dayInMilliseconds);
}

/**
 * What thinning a document by its library's rules comes to; null when nothing goes. The same whatever called
 * for it: a publication, a check-in, a change of rules, or the sweep.
 * @param versions all of the document's, oldest first
 */
export function planThinning(state: DocumentState, versions: readonly Version[], now: Date): Decision | null {
  const limits = limitsAt(state.rules, now);
  if (!limitsAnything(limits)) return null;
  const going = versionsToThin(versions.map(keepable), protectionOf(state), limits);
  if (going.length === 0) return null;
  const rules = new Map(going.map(({ id, rule }) => [id, rule]));
  const until = shelfEnd(state.rules, now);
  const thinned = versions.flatMap((version) => {
    const rule = rules.get(version.id);
    return rule ? [{ version, why: ruleSentence(rule, state.rules) }] : [];
  });
  return {
    changes: thinned.map(({ version, why }) => ({
      kind: 'thin',
      versionId: version.id,
      thinned: { at: now, until, why },
    })),
    ledger: {
      act: 'thin',
      facts: {
        versions: thinned.map(({ version }) => labelIn(state, version)),
        rules: [...new Set(rules.values())],
        until: until.toISOString(),
      },
    },
  };
}
