import type { Block, ComparedBlock } from '@polychron/core';

type Shown = Exclude<Block | ComparedBlock, { kind: 'pageBreak' }>;

/** A block as one side of a comparison has it: with its own formatting and its own number. */
export function asOn(block: Shown, side: 'both' | 'older' | 'newer' | undefined): Shown {
  if (side !== 'older') return block;
  if ('was' in block && block.was) return { ...block.was, status: block.status, change: block.change };
  return 'markerWas' in block && block.markerWas !== undefined
    ? { ...block, marker: block.markerWas }
    : block;
}
