import { formatLabel, numberToCome } from '../numbering/number.ts';
import type { Rulebook } from '../policy/rulebook.ts';
import type { Change, DocumentState, NewVersion } from './document.ts';
import { refuse, type Refusal } from './refusal.ts';
import type { ContentFacts, Fields, Level, OriginKind, VersionNumber } from './version.ts';

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
  return refuse('invalid', 'no-minor-level', 'This library numbers versions 1, 2, 3; there is no minor level. Choose major.');
}

/** A published version is in force at once, approval being off; a draft stands nowhere. */
export function makeVersion(rules: Rulebook, highest: VersionNumber | null, making: VersionMaking, now: Date, era = 1): NewVersion {
  const published = making.level === 'major';
  const { level, ...rest } = making;
  return {
    ...rest,
    ...numberToCome(rules.numbering, highest, level, era),
    at: now,
    state: published ? 'published' : 'draft',
    standing: published ? 'inForce' : null,
    inForceFrom: published ? now : null,
  };
}

/** The changes that add a version to a document: what was in force is superseded by a published one. */
export function addVersion(state: DocumentState, making: VersionMaking, now: Date): { version: NewVersion; label: string; changes: Change[] } {
  const version = makeVersion(state.rules, state.highest, making, now, state.presentEra);
  const changes: Change[] = [];
  if (version.standing === 'inForce' && state.inForce) {
    changes.push({ kind: 'setStanding', versionId: state.inForce.id, standing: 'superseded' });
  }
  changes.push({ kind: 'addVersion', version });
  return { version, label: formatLabel(version, state.presentEra), changes };
}

/** The labels the next version would get, for the level buttons and ghost points. Whole numbers have no minor one. */
export function labelsToCome(state: Pick<DocumentState, 'rules' | 'highest' | 'presentEra'>): { minor: string | null; major: string } {
  const label = (level: Level): string =>
    formatLabel(numberToCome(state.rules.numbering, state.highest, level, state.presentEra), state.presentEra);
  return { minor: state.rules.numbering === 'stepped' ? label('minor') : null, major: label('major') };
}
