import { formatLabel, numberToCome } from '../numbering/number.ts';
import type { Rulebook } from '../policy/rulebook.ts';
import { type Change, type Decision, type DocumentState, newVersion, type NewVersion } from '../versions/document.ts';
import type { Version } from '../versions/version.ts';

/**
 * What leaving `none` does to a document: its current version opens a new era at 1.0, or 1, under the new rules. A newer content that was not
 * in force yet follows as a draft of that era. What has a number already is left alone: null.
 */
export function openEra(state: DocumentState, actorId: string, numbering: Exclude<Rulebook['numbering'], 'none'>, now: Date): Decision | null {
  if (state.latest.numbering !== 'none') return null;
  const era = state.presentEra + 1;
  const { inForce, latest } = state;
  const renumbered = (version: Version, rest: Partial<NewVersion> & Pick<NewVersion, 'era' | 'major' | 'minor' | 'numbering'>): NewVersion => ({
    authorId: actorId, at: now, comment: version.comment, origin: { kind: 'renumber', from: version.id }, content: version.content, fields: version.fields,
    state: 'draft', standing: null, inForceFrom: null, ...rest,
  });
  const changes: Change[] = [];
  if (state.approval) changes.push({ kind: 'setState', versionId: latest.id, state: 'draft' }, { kind: 'closeRun', outcome: 'rulesChanged', at: now });
  let highest: NewVersion | null = null;
  if (inForce) {
    highest = renumbered(inForce, { ...numberToCome(numbering, null, 'major', era), state: 'published', standing: 'inForce', inForceFrom: now });
    changes.push({ kind: 'supersede', versionId: inForce.id, at: now }, { kind: 'addVersion', version: highest });
  }
  for (const version of state.scheduled) {
    highest = renumbered(version, { ...numberToCome(numbering, highest, 'major', era), state: 'published', standing: 'scheduled', inForceFrom: version.inForceFrom });
    changes.push({ kind: 'supersede', versionId: version.id, at: now }, { kind: 'addVersion', version: highest });
  }
  if (latest.state !== 'published' && latest.state !== 'withdrawn') {
    highest = renumbered(latest, numberToCome(numbering, highest, 'minor', era));
    changes.push({ kind: 'addVersion', version: highest });
  }
  if (!highest) return null;
  if (state.custody) changes.push({ kind: 'moveBase', to: newVersion });
  return { changes, ledger: { act: 'openEra', facts: { from: formatLabel(latest, state.presentEra), label: formatLabel(highest, era) } } };
}
