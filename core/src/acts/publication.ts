import type { Version } from '../document/version.ts';
import { formatLabel, numberToCome } from '../rules/numbering.ts';
import { type Change, type DocumentState, labelIn, type NewVersion } from './state.ts';

/** What a new version in force supersedes: the one in force, and any scheduled before it. */
export function supersedeBefore(
  state: Pick<DocumentState, 'inForce' | 'scheduled'>,
  at: Date,
  beforeSequence = Infinity,
): Change[] {
  return [...(state.inForce ? [state.inForce] : []), ...state.scheduled]
    .filter((version) => version.sequence < beforeSequence)
    .map((version) => ({ kind: 'supersede', versionId: version.id, at }));
}

/**
 * Of scheduled versions those that will never be in force, once a newer one is from a moment on.
 * @param moment when that is; null: now
 */
export const neverInForce = <S extends { inForceFrom: Date | string | null }>(
  scheduled: readonly S[],
  moment: Date | string | null,
): S[] =>
  scheduled.filter(
    ({ inForceFrom }) =>
      moment === null || (inForceFrom !== null && new Date(inForceFrom) >= new Date(moment)),
  );

/**
 * Whether a draft bears a number that it keeps when published: under `whole` and `none` there is no other for
 * it.
 */
export const keepsNumber = (version: Pick<Version, 'numbering'>): boolean => version.numbering !== 'stepped';

/**
 * The number the latest version has once it is published: its own where it keeps that, else the next major
 * one.
 */
export function publishedAs(state: DocumentState): string {
  const { latest, rules, highest, presentEra } = state;
  if (keepsNumber(latest)) return labelIn(state, latest);
  return formatLabel(numberToCome(rules.numbering, highest, 'major', presentEra), presentEra);
}

/** What publishing a draft comes to. */
export interface Publication {
  label: string;
  changes: Change[];
  inForceFrom: Date;
  /** Whether a version was added; a draft that keeps its number becomes published itself. */
  adds: boolean;
}

/**
 * The changes that publish a draft: a new x.0 with its content, the draft staying a draft; a number given
 * under `whole` or `none` is published as it is. At once, or scheduled where a later moment is given.
 */
export function publication(
  state: DocumentState,
  draft: Version,
  by: { authorId: string; comment: string; inForceFrom: Date | null },
  now: Date,
): Publication {
  const later = by.inForceFrom !== null && by.inForceFrom.getTime() > now.getTime() ? by.inForceFrom : null;
  const inForceFrom = later ?? now;
  if (keepsNumber(draft)) {
    const force: Change[] = later
      ? [{ kind: 'schedule', versionId: draft.id, inForceFrom: later }]
      : [...supersedeBefore(state, now), { kind: 'comeIntoForce', versionId: draft.id, at: now }];
    const changes: Change[] = [{ kind: 'setState', versionId: draft.id, state: 'published' }, ...force];
    return { label: labelIn(state, draft), inForceFrom, adds: false, changes };
  }
  const number = numberToCome(state.rules.numbering, state.highest, 'major', state.presentEra);
  const version: NewVersion = {
    era: number.era,
    major: number.major,
    minor: number.minor,
    numbering: number.numbering,
    state: 'published',
    standing: later ? 'scheduled' : 'inForce',
    authorId: by.authorId,
    at: now,
    comment: by.comment,
    origin: { kind: 'publish', from: draft.id },
    content: draft.content,
    fields: draft.fields,
    inForceFrom,
  };
  const isDraft = draft.state === 'draft' || draft.state === 'rejected';
  const back: Change[] = isDraft ? [] : [{ kind: 'setState', versionId: draft.id, state: 'draft' }];
  const superseded = later ? [] : supersedeBefore(state, now);
  return {
    label: formatLabel(version, state.presentEra),
    inForceFrom,
    adds: true,
    changes: [...back, ...superseded, { kind: 'addVersion', version }],
  };
}
