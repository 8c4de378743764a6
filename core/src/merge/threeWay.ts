import { elementAt } from '../document/elementAt.ts';
import { editScript } from '../compare/editScript.ts';

/** Part of a sequence: indexes, the end exclusive. */
export interface Extent {
  start: number;
  end: number;
}

/**
 * A stretch of three sequences. `same`: nobody changed it; `present`, `mine`: one side did; `both`: both did,
 * alike; `conflict`: both did, differently.
 */
export interface Region {
  kind: 'same' | 'present' | 'mine' | 'both' | 'conflict';
  base: Extent;
  present: Extent;
  mine: Extent;
}

interface Hunk {
  side: 'present' | 'mine';
  base: Extent;
  other: Extent;
}

/**
 * Lays two changed sequences over the one they come from. Changes that overlap are one region; so are those
 * that touch, as GNU diff3 joins them, unless `apart`: paragraphs side by side stand each for itself. Source:
 * S. Khanna, K. Kunal, B. C. Pierce, "A Formal Investigation of Diff3", FSTTCS 2007; GNU diffutils manual,
 * "diff3 Merging". Elements are compared with `===`.
 * @returns regions in order, that together cover all three sequences
 */
export function threeWay<T>(
  base: readonly T[],
  present: readonly T[],
  mine: readonly T[],
  touching: 'joined' | 'apart' = 'joined',
): Region[] {
  const joins = (next: Extent, end: number, start: number): boolean =>
    touching === 'joined'
      ? next.start <= end
      : next.start < end || (next.start === start && next.end === start && end === start);
  const hunks = [...hunksOf('present', base, present), ...hunksOf('mine', base, mine)].sort(
    (a, b) => a.base.start - b.base.start || a.base.end - b.base.end,
  );
  const regions: Region[] = [];
  // How far each sequence is covered.
  const at = { base: 0, present: 0, mine: 0 };
  const same = (until: number): void => {
    const length = until - at.base;
    if (length > 0) {
      regions.push({
        kind: 'same',
        base: extent(at.base, length),
        present: extent(at.present, length),
        mine: extent(at.mine, length),
      });
    }
    at.base += length;
    at.present += length;
    at.mine += length;
  };
  for (let next = 0; next < hunks.length;) {
    const group = [elementAt(hunks, next)];
    let { end } = elementAt(hunks, next).base;
    const { start } = elementAt(hunks, next).base;
    for (next += 1; next < hunks.length && joins(elementAt(hunks, next).base, end, start); next += 1) {
      group.push(elementAt(hunks, next));
      end = Math.max(end, elementAt(hunks, next).base.end);
    }
    same(elementAt(group, 0).base.start);
    // What a side did not touch inside the region keeps its length.
    const lengthOf = (side: Hunk['side']): number =>
      end -
      at.base +
      group
        .filter((hunk) => hunk.side === side)
        .reduce(
          (sum, hunk) => sum + (hunk.other.end - hunk.other.start) - (hunk.base.end - hunk.base.start),
          0,
        );
    const region = {
      base: extent(at.base, end - at.base),
      present: extent(at.present, lengthOf('present')),
      mine: extent(at.mine, lengthOf('mine')),
    };
    regions.push({ kind: kindOf(group, present, mine, region), ...region });
    at.base = region.base.end;
    at.present = region.present.end;
    at.mine = region.mine.end;
  }
  same(base.length);
  return regions;
}

const extent = (start: number, length: number): Extent => ({ start, end: start + length });

function hunksOf<T>(side: Hunk['side'], base: readonly T[], other: readonly T[]): Hunk[] {
  const hunks: Hunk[] = [];
  for (const span of editScript(base, other)) {
    if (span.kind === 'equal') continue;
    const last = hunks.at(-1);
    // A deletion and an insertion side by side are one change.
    if (last && last.base.end === span.aStart && last.other.end === span.bStart) {
      last.base.end = span.aEnd;
      last.other.end = span.bEnd;
    } else
      hunks.push({
        side,
        base: { start: span.aStart, end: span.aEnd },
        other: { start: span.bStart, end: span.bEnd },
      });
  }
  return hunks;
}

function kindOf<T>(
  group: readonly Hunk[],
  present: readonly T[],
  mine: readonly T[],
  region: Omit<Region, 'kind'>,
): Region['kind'] {
  if (group.every(({ side }) => side === 'present')) return 'present';
  if (group.every(({ side }) => side === 'mine')) return 'mine';
  const [a, b] = [
    present.slice(region.present.start, region.present.end),
    mine.slice(region.mine.start, region.mine.end),
  ];
  return a.length === b.length && a.every((value, index) => value === b[index]) ? 'both' : 'conflict';
}
