import type { Comparison } from '@polychron/contract';
import type { ComparedBlock } from '@polychron/core';

type Part = Comparison['parts'][number];

/** What of a comparison is laid out at once: a part's label, a block, or some rows of a long table. */
export interface Unit {
  part: Part;
  /** A block of the part; null for its label. */
  block: ComparedBlock | null;
  /** Whether the part begins or ends with it. */
  isFirst: boolean;
  isLast: boolean;
  /** Whether its columns are as wide as those of other rows of the same table. */
  isSlice: boolean;
}

/** Rows of a table that are laid out at once. */
const rowsAtOnce = 40;

/** What is the same in both versions takes a line, not a page. */
export const differs = (part: Part): boolean => part.blocks.some((block) => block.status !== 'same');

/** A comparison as units, front to back: the text, and what else differs. */
export function unitsOf({ parts }: Comparison): Unit[] {
  return parts
    .filter((part) => part.where === 'body' || differs(part))
    .flatMap((part) => {
      const blocks = part.blocks.flatMap(slicesOf);
      const units: Unit[] = blocks.map(({ block, isSlice }, at) => ({
        part,
        block,
        isSlice,
        isFirst: at === 0,
        isLast: at === blocks.length - 1,
      }));
      const label = { part, block: null, isFirst: false, isLast: false, isSlice: false };
      return part.where === 'body' ? units : [label, ...units];
    });
}

function slicesOf(block: ComparedBlock): { block: ComparedBlock; isSlice: boolean }[] {
  if (block.kind !== 'table' || block.rows.length <= rowsAtOnce) return [{ block, isSlice: false }];
  const slices = Math.ceil(block.rows.length / rowsAtOnce);
  return Array.from({ length: slices }, (_, at) => ({
    block: { ...block, rows: block.rows.slice(at * rowsAtOnce, (at + 1) * rowsAtOnce) },
    isSlice: true,
  }));
}

/** The unit that each change stands in, by its id; where a change stands in none, the first. */
export function unitsOfChanges(units: readonly Unit[]): Map<number, number> {
  const found = new Map<number, number>();
  const note = (change: number | null, unit: number): void => {
    if (change !== null && !found.has(change)) found.set(change, unit);
  };
  const visit = (block: ComparedBlock, unit: number): void => {
    note(block.change, unit);
    if (block.kind !== 'table') return;
    for (const row of block.rows) {
      note(row.change, unit);
      for (const cell of row.cells) for (const inner of cell.blocks) visit(inner, unit);
    }
  };
  for (const [at, { block }] of units.entries()) if (block) visit(block, at);
  return found;
}

/** Signs in a line of the page, and heights in pixels, about: what is not laid out yet is guessed. */
const signsInALine = 95;
const lineHeight = 26;
const rowHeight = 36;

/** About how high a unit is, in pixels, where it is shown in so much of the page's width. */
export function guessHeight({ block }: Unit, share: number): number {
  if (!block) return lineHeight;
  if (block.kind === 'pageBreak') return lineHeight;
  if (block.kind === 'table') return block.rows.length * rowHeight;
  const signs = block.runs.reduce((sum, run) => sum + run.text.length, 0);
  return 14 + Math.ceil(Math.max(1, signs) / (signsInALine * share)) * lineHeight;
}

/** About how far down each unit begins, in pixels, and last where all of them end. */
export function topsOf(units: readonly Unit[], share: number): number[] {
  const tops = [0];
  for (const unit of units) tops.push((tops.at(-1) ?? 0) + guessHeight(unit, share));
  return tops;
}
