import { elementAt } from '../document/elementAt.ts';
import type { Fields } from '../document/version.ts';
import {
  type Block,
  countWords,
  type Margin,
  type Reading,
  type Run,
  type TableBlock,
  type TextBlock,
  textOfBlock,
  textOfBlocks,
} from '../files/reading.ts';
import { encodingNames } from '../files/text/encoding.ts';
import { align, type Alignable } from './align.ts';
import { type ComparedRun, compareWords } from './words.ts';

export type ChangeKind = 'inserted' | 'deleted' | 'changed' | 'moved' | 'restyled';
export type Where = 'field' | 'header' | 'footer' | 'body' | 'note';

/** One change of the list a person steps through. */
export interface TextChange {
  /** From 1, in the order the list and the page show them. */
  id: number;
  kind: ChangeKind;
  where: Where;
  /** What changed: "Title", "heading", "paragraph", "table row", "table cell". */
  what: string;
  before: string;
  after: string;
  wordsDeleted: number;
  wordsInserted: number;
}

export type BlockStatus = 'same' | ChangeKind | 'movedAway';
export interface ComparedText extends Omit<TextBlock, 'runs'> {
  status: BlockStatus;
  change: number | null;
  runs: ComparedRun[];
}
export interface ComparedCell {
  blocks: ComparedBlock[];
  columns: number;
  rows: number;
}
export interface ComparedRow {
  status: 'same' | 'inserted' | 'deleted' | 'changed';
  change: number | null;
  header: boolean;
  cells: ComparedCell[];
}
export interface ComparedTable {
  kind: 'table';
  status: BlockStatus;
  change: number | null;
  rows: ComparedRow[];
}
export type ComparedBlock = ComparedText | ComparedTable;

/** A part of the file compared on its own. */
export interface ComparedPart {
  where: Where;
  label: string;
  blocks: ComparedBlock[];
}

export interface Comparison {
  changes: TextChange[];
  counts: Record<ChangeKind, number> & { wordsDeleted: number; wordsInserted: number };
  parts: ComparedPart[];
}

/** One side of a comparison. */
export interface Side {
  reading: Reading;
  fields: Fields;
}

/**
 * Compares two readings: fields, headers and footers first, then the body, then the notes. Blocks are aligned
 * (equal, then similar ones, moves found), words within changed blocks compared by the shortest edit script.
 */
export function compare(older: Side, newer: Side): Comparison {
  const list = new ChangeList();
  const parts: ComparedPart[] = [comparedFields(older, newer, list)];
  for (const key of marginKeys(older.reading, newer.reading)) {
    const [a, b] = [older, newer].map(({ reading }) =>
      reading.margins.find((margin) => marginKey(margin) === key),
    );
    const one = (b ?? a) as Margin;
    parts.push(
      comparedPart({ where: one.kind, label: marginLabel(one) }, a?.blocks ?? [], b?.blocks ?? [], list),
    );
  }
  parts.push(
    comparedPart({ where: 'body', label: 'Text' }, older.reading.blocks, newer.reading.blocks, list),
  );
  const notes = ({ reading }: Side): Block[] => reading.notes.flatMap((note) => note.blocks);
  parts.push(comparedPart({ where: 'note', label: 'Notes' }, notes(older), notes(newer), list));
  return {
    changes: list.changes,
    counts: list.counts(),
    parts: parts.filter((part) => part.where === 'body' || part.blocks.length > 0),
  };
}

/** Longest excerpt of a change in the list, in characters. */
const excerptLength = 160;

class ChangeList {
  readonly changes: TextChange[] = [];

  add(change: Omit<TextChange, 'id'>): number {
    const id = this.changes.length + 1;
    const short = (text: string): string =>
      text.length > excerptLength ? `${text.slice(0, excerptLength - 1)}…` : text;
    this.changes.push({ ...change, id, before: short(change.before), after: short(change.after) });
    return id;
  }

  counts(): Comparison['counts'] {
    const counts = {
      inserted: 0,
      deleted: 0,
      changed: 0,
      moved: 0,
      restyled: 0,
      wordsDeleted: 0,
      wordsInserted: 0,
    };
    for (const change of this.changes) {
      counts[change.kind] += 1;
      counts.wordsDeleted += change.wordsDeleted;
      counts.wordsInserted += change.wordsInserted;
    }
    return counts;
  }
}

const fieldNames: [keyof Fields, string][] = [
  ['title', 'Title'],
  ['type', 'Type'],
  ['subject', 'Subject'],
  ['reviewBy', 'Review date'],
];

/** Fields, and the encoding of a text: what is told of a version beside what is written in it. */
function comparedFields(older: Side, newer: Side, list: ChangeList): ComparedPart {
  const areTexts = older.reading.encoding !== undefined && newer.reading.encoding !== undefined;
  const told = ({ fields, reading: { encoding } }: Side): [string, string][] => [
    ...fieldNames.map(([key, label]): [string, string] => [label, [fields[key] ?? []].flat().join(', ')]),
    ['Encoding', areTexts && encoding ? encodingNames[encoding] : ''],
  ];
  const after = new Map(told(newer));
  const blocks = told(older).flatMap(([what, was]): ComparedBlock[] => {
    const now = after.get(what) ?? '';
    if (was === now) return [];
    return [comparedText(paragraph(was), paragraph(now), { where: 'field', what }, list)];
  });
  return { where: 'field', label: 'Fields', blocks };
}

const paragraph = (text: string): TextBlock => ({
  kind: 'paragraph',
  level: 0,
  runs: text === '' ? [] : [{ text }],
});
const marginKey = (margin: Margin): string => `${margin.kind} ${margin.section} ${margin.pages}`;
const marginPages = { default: '', first: ', first page', even: ', even pages' };
const marginLabel = (margin: Margin): string =>
  `${margin.kind === 'header' ? 'Header' : 'Footer'}${marginPages[margin.pages]}${margin.section > 1 ? `, section ${margin.section}` : ''}`;

function marginKeys(older: Reading, newer: Reading): string[] {
  const rank = ({ kind }: Margin): number => (kind === 'header' ? 0 : 1);
  const margins = [...newer.margins, ...older.margins].sort(
    (a, b) => rank(a) - rank(b) || a.section - b.section,
  );
  return [...new Set(margins.map(marginKey))];
}

const comparable = (blocks: readonly Block[]): (TextBlock | TableBlock)[] =>
  blocks.filter((block): block is TextBlock | TableBlock => block.kind !== 'pageBreak');

const styleMark = (run: Run): string =>
  `${run.bold ? 'b' : ''}${run.italic ? 'i' : ''}${run.underline ? 'u' : ''}${run.strike ? 's' : ''}${run.code ? 'c' : ''}${run.vertical ?? ''}${run.href ?? ''}`;

/**
 * Equal keys mean a reader sees the same: same kind, same text, same style, same pictures. List marks may
 * differ.
 */
function keyOf(block: TextBlock | TableBlock): string {
  if (block.kind === 'table') {
    return `table ${JSON.stringify(block.rows.map((row) => row.cells.map((cell) => [cell.columns, cell.rows, comparable(cell.blocks).map(keyOf)])))}`;
  }
  const runs = block.runs.map((run) => {
    if (run.image) return `[image ${run.image.alt} ${run.image.width}x${run.image.height}]`;
    if (run.field) return `[${run.field}]`;
    return run.note === undefined ? `${styleMark(run)}\u0001${run.text}` : '[note]';
  });
  return `${block.kind} ${block.level} ${runs.join('\u0002')}`;
}

const alignableOf = (block: TextBlock | TableBlock): Alignable => ({
  key: keyOf(block),
  family: block.kind === 'table' ? 'table' : 'text',
  text: textOfBlock(block),
});

/** Fewer words than this are found moved everywhere: "Note:", "see above". */
const wordsOfAMove = 4;

function comparedPart(
  { where, label }: Pick<ComparedPart, 'where' | 'label'>,
  older: readonly Block[],
  newer: readonly Block[],
  list: ChangeList,
): ComparedPart {
  return { where, label, blocks: comparedBlocks(comparable(older), comparable(newer), where, list) };
}

function comparedBlocks(
  a: (TextBlock | TableBlock)[],
  b: (TextBlock | TableBlock)[],
  where: Where,
  list: ChangeList,
): ComparedBlock[] {
  const itemsA = a.map(alignableOf);
  const itemsB = b.map(alignableOf);
  const places = align(itemsA, itemsB);
  const moved = findMoves(places, itemsA, itemsB);
  return places.map((place): ComparedBlock => {
    const older = place.a === null ? null : elementAt(a, place.a);
    const newer = place.b === null ? null : elementAt(b, place.b);
    if (older && newer) {
      if (elementAt(itemsA, place.a as number).key === elementAt(itemsB, place.b as number).key)
        return oneSided(newer, 'same', null);
      if (older.kind === 'table' && newer.kind === 'table') return comparedTable(older, newer, where, list);
      if (older.kind !== 'table' && newer.kind !== 'table')
        return comparedText(older, newer, { where, what: nameOf(newer) }, list);
    }
    const block = (newer ?? older) as TextBlock | TableBlock;
    const text = textOfBlock(block);
    if (newer && moved.to.has(place.b as number)) {
      const change = list.add({
        kind: 'moved',
        where,
        what: nameOf(block),
        before: text,
        after: text,
        wordsDeleted: 0,
        wordsInserted: 0,
      });
      return oneSided(block, 'moved', change);
    }
    if (older && moved.from.has(place.a as number)) return oneSided(block, 'movedAway', null);
    return addOneSided(block, newer ? 'inserted' : 'deleted', where, list);
  });
}

function addOneSided(
  block: TextBlock | TableBlock,
  status: 'inserted' | 'deleted',
  where: Where,
  list: ChangeList,
): ComparedBlock {
  const words = countWords(textOfBlock(block));
  const text = textOfBlock(block);
  if (text.trim() === '' && block.kind !== 'table' && !block.runs.some((run) => run.image))
    return oneSided(block, status, null);
  const change = list.add({
    kind: status,
    where,
    what: nameOf(block),
    before: status === 'deleted' ? text : '',
    after: status === 'inserted' ? text : '',
    wordsDeleted: status === 'deleted' ? words : 0,
    wordsInserted: status === 'inserted' ? words : 0,
  });
  return oneSided(block, status, change);
}

function findMoves(
  places: { a: number | null; b: number | null }[],
  a: Alignable[],
  b: Alignable[],
): { from: Set<number>; to: Set<number> } {
  const gone = new Map<string, number[]>();
  for (const place of places) {
    if (place.b !== null || place.a === null) continue;
    const item = elementAt(a, place.a);
    if (item.text.split(/\s+/).filter(Boolean).length >= wordsOfAMove)
      gone.set(item.key, [...(gone.get(item.key) ?? []), place.a]);
  }
  const from = new Set<number>();
  const to = new Set<number>();
  for (const place of places) {
    if (place.a !== null || place.b === null) continue;
    const source = gone.get(elementAt(b, place.b).key)?.shift();
    if (source === undefined) continue;
    from.add(source);
    to.add(place.b);
  }
  return { from, to };
}

function nameOf(block: TextBlock | TableBlock): string {
  return { paragraph: 'paragraph', heading: 'heading', listItem: 'list item', table: 'table' }[block.kind];
}

const runStatuses: Partial<Record<BlockStatus, ComparedRun['status']>> = {
  deleted: 'deleted',
  movedAway: 'deleted',
  inserted: 'inserted',
  moved: 'inserted',
};

/** A block that one side has, or both alike. */
function oneSided(block: TextBlock | TableBlock, status: BlockStatus, change: number | null): ComparedBlock {
  const runStatus = runStatuses[status] ?? 'same';
  if (block.kind !== 'table')
    return { ...block, status, change, runs: block.runs.map((run) => ({ ...run, status: runStatus })) };
  return {
    kind: 'table',
    status,
    change,
    rows: block.rows.map((row) => ({
      header: row.header,
      status: runStatus,
      change: null,
      cells: cellsAs(row, status),
    })),
  };
}
const cellsAs = (row: TableBlock['rows'][number], status: BlockStatus): ComparedCell[] =>
  row.cells.map((cell) => ({
    ...cell,
    blocks: comparable(cell.blocks).map((block) => oneSided(block, status, null)),
  }));

function comparedText(
  older: TextBlock,
  newer: TextBlock,
  { where, what }: { where: Where; what: string },
  list: ChangeList,
): ComparedText {
  const words = compareWords(older.runs, newer.runs);
  const differs = words.runs.some((run) => run.status !== 'same');
  const kind: ChangeKind = differs ? 'changed' : 'restyled';
  const excerpt = (status: 'deleted' | 'inserted'): string =>
    words.runs
      .filter((run) => run.status === status)
      .map((run) => run.text || (run.image ? '[picture]' : ''))
      .join(' … ')
      .trim();
  const whole = textOfBlock(newer);
  const change = list.add({
    kind,
    where,
    what,
    before: differs ? excerpt('deleted') : whole,
    after: differs ? excerpt('inserted') : whole,
    wordsDeleted: words.wordsDeleted,
    wordsInserted: words.wordsInserted,
  });
  return { ...newer, status: kind, change, runs: words.runs };
}

function comparedTable(older: TableBlock, newer: TableBlock, where: Where, list: ChangeList): ComparedTable {
  const rowItem = (row: TableBlock['rows'][number]): Alignable => ({
    key: keyOf({ kind: 'table', rows: [row] }),
    family: 'row',
    text: row.cells.map((cell) => textOfBlocks(cell.blocks)).join(' '),
  });
  const itemsA = older.rows.map(rowItem);
  const itemsB = newer.rows.map(rowItem);
  const rows = pairLeftovers(align(itemsA, itemsB), older, newer).map((place): ComparedRow => {
    const a = place.a === null ? null : elementAt(older.rows, place.a);
    const b = place.b === null ? null : elementAt(newer.rows, place.b);
    if (a && b) {
      if (elementAt(itemsA, place.a as number).key === elementAt(itemsB, place.b as number).key) {
        return { status: 'same', change: null, header: b.header, cells: cellsAs(b, 'same') };
      }
      return { status: 'changed', change: null, header: b.header, cells: comparedCells(a, b, where, list) };
    }
    const row = (b ?? a) as TableBlock['rows'][number];
    const status = b ? 'inserted' : 'deleted';
    const text = row.cells.map((cell) => textOfBlocks(cell.blocks)).join(' · ');
    const words = countWords(text);
    const change = list.add({
      kind: status,
      where,
      what: 'table row',
      before: b ? '' : text,
      after: b ? text : '',
      wordsDeleted: b ? 0 : words,
      wordsInserted: b ? words : 0,
    });
    return { status, change, header: row.header, cells: cellsAs(row, status) };
  });
  return { kind: 'table', status: 'changed', change: null, rows };
}

/**
 * A row gone and a row come at the same place with the same first cell are one row changed: "Valley | 19" and
 * "Valley | 17".
 */
function pairLeftovers(
  places: { a: number | null; b: number | null }[],
  older: TableBlock,
  newer: TableBlock,
): { a: number | null; b: number | null }[] {
  const first = (table: TableBlock, index: number): string =>
    textOfBlocks(table.rows[index]?.cells[0]?.blocks ?? []).trim();
  const left = new Map<string, number>();
  for (const { a, b } of places)
    if (a !== null && b === null && first(older, a) !== '') left.set(first(older, a), a);
  const taken = new Set<number>();
  const paired = places.map((place) => {
    if (place.a !== null || place.b === null) return place;
    const a = left.get(first(newer, place.b));
    if (a === undefined || taken.has(a)) return place;
    taken.add(a);
    return { a, b: place.b };
  });
  return paired.filter((place) => place.b !== null || !taken.has(place.a as number));
}

/** Cells pair by column where the rows have as many; otherwise by likeness of their texts. */
function comparedCells(
  older: TableBlock['rows'][number],
  newer: TableBlock['rows'][number],
  where: Where,
  list: ChangeList,
): ComparedCell[] {
  const item = (cell: { blocks: Block[] }): Alignable => ({
    key: textOfBlocks(cell.blocks),
    family: 'cell',
    text: textOfBlocks(cell.blocks),
  });
  const places =
    older.cells.length === newer.cells.length
      ? newer.cells.map((_, index) => ({ a: index, b: index }))
      : align(older.cells.map(item), newer.cells.map(item));
  return places.map((place): ComparedCell => {
    const a = place.a === null ? null : older.cells[place.a];
    const b = place.b === null ? null : newer.cells[place.b];
    const shape = (b ?? a) as { columns: number; rows: number };
    const blocksA = comparable(a?.blocks ?? []);
    const blocksB = comparable(b?.blocks ?? []);
    const [onlyA, onlyB] = [blocksA[0], blocksB[0]];
    if (
      blocksA.length === 1 &&
      blocksB.length === 1 &&
      onlyA &&
      onlyB &&
      onlyA.kind !== 'table' &&
      onlyB.kind !== 'table'
    ) {
      const same = keyOf(onlyA) === keyOf(onlyB);
      return {
        ...shape,
        blocks: [
          same
            ? oneSided(onlyB, 'same', null)
            : comparedText(onlyA, onlyB, { where, what: 'table cell' }, list),
        ],
      };
    }
    return { ...shape, blocks: comparedBlocks(blocksA, blocksB, where, list) };
  });
}
