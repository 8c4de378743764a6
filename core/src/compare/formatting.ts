import type { Block, Run, TextBlock } from '../files/reading.ts';

/** How runs of equal words can differ, and what each is called. */
const runWords: readonly (readonly [keyof Run, string])[] = [
  ['bold', 'bold'],
  ['italic', 'italic'],
  ['underline', 'underlined'],
  ['strike', 'struck through'],
  ['code', 'fixed-width'],
  ['vertical', 'raised or lowered'],
  ['caps', 'capitals'],
  ['colour', 'colour'],
  ['size', 'size'],
  ['highlight', 'highlighting'],
  ['href', 'link'],
  ['target', 'link'],
];
const blockWords: readonly (readonly ['align' | 'indent' | 'shading' | 'list', string])[] = [
  ['align', 'alignment'],
  ['indent', 'indent'],
  ['shading', 'shading'],
  ['list', 'list'],
];
const units: Readonly<Record<string, string>> = { size: ' pt', indent: ' pt' };

const told = (key: string, value: unknown): string =>
  value === undefined ? 'none' : `${String(value)}${units[key] ?? ''}`;
const change = (key: string, name: string, before: unknown, after: unknown): string => {
  if (after === true) return name;
  if (before === true) return `not ${name}`;
  return `${name} ${told(key, before)} → ${told(key, after)}`;
};

const blockNames = {
  paragraph: 'paragraph',
  heading: 'heading',
  listItem: 'list item',
  table: 'table',
  pageBreak: 'page break',
};
/** What kind of block it is, as a person calls it; headings with their level. */
function levelledName(block: TextBlock): string {
  if (block.kind !== 'heading') return blockNames[block.kind];
  return block.level === 0 ? 'title' : `heading ${block.level}`;
}
/** What kind of block it is, as a person calls it. */
export const kindOfBlock = (block: Block): string => blockNames[block.kind];

/**
 * What of the formatting of two texts differs: of the blocks, and of pairs of runs that hold the same words.
 * Each is told once: "colour none → c80000", "bold".
 */
export function formattingChanges(
  older: TextBlock,
  newer: TextBlock,
  pairs: readonly (readonly [Run, Run])[],
): string[] {
  const found = new Set<string>();
  if (older.kind !== newer.kind || older.level !== newer.level)
    found.add(`${levelledName(older)} → ${levelledName(newer)}`);
  for (const [key, name] of blockWords)
    if (older[key] !== newer[key]) found.add(change(key, name, older[key], newer[key]));
  if (older.rest !== newer.rest) found.add('spacing, borders, tabs or fonts, not shown here');
  for (const [a, b] of pairs)
    for (const [key, name] of runWords) if (a[key] !== b[key]) found.add(change(key, name, a[key], b[key]));
  return [...found];
}

/** Equal for runs that look the same. */
export const lookOfRun = (run: Run): string =>
  isPlain(run) ? plainLook : runWords.map(([key]) => run[key] ?? '').join('|');
const plainLook = runWords.map(() => '').join('|');
/** Whether a run has nothing but its text: most have. */
function isPlain(run: Run): boolean {
  for (const key in run) if (key !== 'text') return false;
  return true;
}
/** Equal for blocks that stand the same. */
export const lookOfBlock = (block: TextBlock): string =>
  [...blockWords.map(([key]) => block[key] ?? ''), block.rest ?? ''].join('|');
