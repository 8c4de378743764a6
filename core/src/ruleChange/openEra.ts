import {
  type Change,
  type Decision,
  type DocumentState,
  labelIn,
  newVersion,
  type NewVersion,
} from '../acts/state.ts';
import type { Version, VersionNumber } from '../document/version.ts';
import { formatLabel, numberToCome } from '../rules/numbering.ts';
import type { Rulebook } from '../rules/rulebook.ts';

/**
 * What leaving `none` does to a document: its current version opens a new era at 1.0, or 1, under the new
 * rules. A newer content that was not in force yet follows as a draft of that era. What has a number already
 * is left alone: null.
 */
export function openEra(
  state: DocumentState,
  actorId: string,
  numbering: Exclude<Rulebook['numbering'], 'none'>,
  now: Date,
): Decision | null {
  const { inForce, latest, scheduled, presentEra } = state;
  if (latest.numbering !== 'none') return null;
  const era = presentEra + 1;
  const changes: Change[] = [];
  let highest: VersionNumber | null = null;
  const add = (source: Version, level: 'minor' | 'major', rest: Partial<NewVersion>): void => {
    highest = numberToCome(numbering, highest, level, era);
    const { comment, content, fields } = source;
    const version: NewVersion = {
      ...highest,
      authorId: actorId,
      at: now,
      comment,
      origin: { kind: 'renumber', from: source.id },
      content,
      fields,
      state: 'draft',
      standing: null,
      inForceFrom: null,
      ...rest,
    };
    changes.push({ kind: 'addVersion', version });
  };
  const replace = (source: Version, rest: Partial<NewVersion>): void => {
    changes.push({ kind: 'supersede', versionId: source.id, at: now });
    add(source, 'major', { state: 'published', ...rest });
  };
  if (inForce) replace(inForce, { standing: 'inForce', inForceFrom: now });
  for (const version of scheduled) {
    replace(version, { standing: 'scheduled', inForceFrom: version.inForceFrom });
  }
  if (latest.state !== 'published' && latest.state !== 'withdrawn') add(latest, 'minor', {});
  const last = highest as VersionNumber | null;
  if (!last) return null;
  const ended: Change[] = state.approval
    ? [
        { kind: 'setState', versionId: latest.id, state: 'draft' },
        { kind: 'closeRun', outcome: 'rulesChanged', at: now },
      ]
    : [];
  const base: Change[] = state.custody ? [{ kind: 'moveBase', to: newVersion }] : [];
  return {
    changes: [...ended, ...changes, ...base],
    ledger: {
      act: 'openEra',
      facts: { from: labelIn(state, latest), label: formatLabel(last, era) },
    },
  };
}
