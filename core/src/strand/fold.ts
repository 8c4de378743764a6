import { elementAt } from '../document/elementAt.ts';
import type { StrandVersion } from './input.ts';

/** A place on the Strand's axis: one version, or a stretch folded into one mark. */
export type Slot = { kind: 'point'; version: StrandVersion } | Fold;
/** A lens holds older drafts between two publications, a run thinned versions. */
export interface Fold {
  kind: 'lens' | 'run';
  id: string;
  versions: readonly StrandVersion[];
}

/** Thinned versions in a row that become one dotted run; fewer are notches. */
const leastRun = 4;
/** Drafts in a row that become a lens where there is no room for all. */
const leastLens = 3;

interface Folding {
  /** Versions at the end that are never folded. */
  tail: number;
  /** Whether drafts fold: there is no room for all. */
  dense: boolean;
  /** Folds somebody has opened, by id. */
  opened: ReadonlySet<string>;
  /** Versions that stay to be seen: the base of a check-out. */
  kept: ReadonlySet<string>;
}

/**
 * Folds a history: long stretches of thinned versions into runs, and in dense ones drafts into lenses. What
 * is folded is what the viewer sees: folding comes after sight.
 * @param versions oldest first
 */
export function foldHistory(versions: readonly StrandVersion[], folding: Folding): Slot[] {
  const slots: Slot[] = [];
  const end = versions.length - folding.tail;
  for (let at = 0; at < versions.length;) {
    const stretch = stretchFrom(versions, at, end, folding);
    if (stretch && !folding.opened.has(stretch.id)) {
      slots.push(stretch);
      at += stretch.versions.length;
    } else {
      const count = stretch?.versions.length ?? 1;
      for (const version of versions.slice(at, at + count)) slots.push({ kind: 'point', version });
      at += count;
    }
  }
  return slots;
}

function stretchFrom(
  versions: readonly StrandVersion[],
  from: number,
  end: number,
  { dense, kept }: Folding,
): Fold | null {
  const first = versions[from];
  if (!first || from >= end) return null;
  const alike = (one: StrandVersion): boolean =>
    !kept.has(one.id) && (first.thinned ? Boolean(one.thinned) : !one.thinned && isDraft(one));
  if (!alike(first)) return null;
  let to = from;
  while (to < end && alike(elementAt(versions, to))) to += 1;
  const kind = first.thinned ? 'run' : 'lens';
  if (to - from < (kind === 'run' ? leastRun : leastLens) || (kind === 'lens' && !dense)) return null;
  return { kind, id: `${kind} ${first.id}`, versions: versions.slice(from, to) };
}

const isDraft = (version: StrandVersion): boolean =>
  version.state === 'draft' || version.state === 'rejected';
