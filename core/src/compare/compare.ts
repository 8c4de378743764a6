import { elementAt } from '../document/elementAt.ts';
import { type OwnValues, valueWords } from '../document/fieldValue.ts';
import type { Fields } from '../document/version.ts';
import {
  type Block,
  countWords,
  joinable,
  type Margin,
  type Reading,
  type Run,
  type TableBlock,
  type TextBlock,
  textOfBlock,
  textOfBlocks,
  textOfRuns,
} from '../files/reading.ts';
import { styleWord } from '../files/docx/beside.ts';
import { encodingNames } from '../files/text/encoding.ts';
import { align, type Alignable, type Aligned } from './align.ts';
import { formattingChanges, kindOfBlock, lookOfBlock, lookOfRun } from './formatting.ts';
import { stretchesOf, type WovenLine } from './lines.ts';
import { type ComparedRun, compareWords } from './words.ts';

type Row = TableBlock['rows'][number];

export type ChangeKind = 'inserted' | 'deleted' | 'changed' | 'moved' | 'restyled';
export type Where = 'field' | 'header' | 'footer' | 'body' | 'note' | 'comment';

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
  /** What of the formatting changed: "bold", "colour none → c80000". */
  how: string;
  /** Where it stands: the heading above it, and row and column in a table. */
  place: string;
  wordsDeleted: number;
  wordsInserted: number;
}

export type BlockStatus = 'same' | ChangeKind | 'movedAway';
export interface ComparedText extends Omit<TextBlock, 'runs'> {
  status: BlockStatus;
  change: number | null;
  runs: ComparedRun[];
  /** The older text has no line end after it. */
  joined?: true;
  /** A list item's mark in the older version, where it was another. */
  markerWas?: string;
  /** How it stood in the older version, where only its formatting differs. */
  was?: TextBlock;
}
export interface ComparedCell {
  /** Whether both sides have it. */
  status: 'same' | 'inserted' | 'deleted';
  blocks: ComparedBlock[];
  columns: number;
  rows: number;
}
export interface ComparedRow {
  status: BlockStatus;
  change: number | null;
  header: boolean;
  cells: ComparedCell[];
}
export interface ComparedTable {
  kind: 'table';
  direction?: 'rtl';
  status: BlockStatus;
  change: number | null;
  rows: ComparedRow[];
}
export interface ComparedBreak {
  kind: 'pageBreak';
  status: BlockStatus;
  change: number | null;
}
export type ComparedBlock = ComparedText | ComparedTable | ComparedBreak;

/** A part of the file compared on its own. */
export interface ComparedPart {
  where: Where;
  label: string;
  blocks: ComparedBlock[];
}

export interface Comparison {
  changes: TextChange[];
  counts: Record<ChangeKind, number> & { wordsDeleted: number; wordsInserted: number };
  /**
   * Whether no search for the shortest way to tell it was given up: it is where too little is
   * alike.
   */
  isShortest: boolean;
  /** Tracked changes that are not accepted in each file: it is compared as if they were. */
  waiting: { older: number; newer: number };
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
  const areTexts = [older, newer].every(({ reading }) => reading.format === 'text');
  const [was, now] = [older.reading.blocks, newer.reading.blocks];
  parts.push(
    areTexts
      ? { where: 'body', label: 'Text', blocks: comparedLines(was.filter(isText), now.filter(isText), list) }
      : comparedPart({ where: 'body', label: 'Text' }, was, now, list),
  );
  list.heading = '';
  const notes = ({ reading }: Side): Block[] => reading.notes.flatMap((note) => note.blocks);
  parts.push(comparedPart({ where: 'note', label: 'Notes' }, notes(older), notes(newer), list));
  const comments = ({ reading }: Side): Block[] => (reading.comments ?? []).flatMap(({ blocks }) => blocks);
  parts.push(comparedPart({ where: 'comment', label: 'Comments' }, comments(older), comments(newer), list));
  return {
    changes: list.changes,
    counts: list.counts(),
    isShortest: list.isShortest,
    waiting: { older: waitingIn(older), newer: waitingIn(newer) },
    parts: parts.filter((part) => part.where === 'body' || part.blocks.length > 0),
  };
}

const waitingIn = ({ reading: { pending } }: Side): number =>
  pending ? pending.inserted + pending.deleted : 0;

/** Longest excerpt of a change in the list, in characters. */
const excerptLength = 160;

class ChangeList {
  readonly changes: TextChange[] = [];
  /** The heading that what is added now stands under, and where in a table. */
  heading = '';
  cell: { row: number; column: number | null } | null = null;
  isShortest = true;

  add(given: Omit<TextChange, 'id' | 'how' | 'place'> & { how?: string }): number {
    const at = this.cell
      ? `row ${this.cell.row}${this.cell.column === null ? '' : `, column ${this.cell.column}`}`
      : '';
    const place = [this.heading, at].filter(Boolean).join(', ');
    const change = { how: '', ...given, place };
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

const fieldNames: [keyof Omit<Fields, 'own'>, string][] = [
  ['title', 'Title'],
  ['type', 'Type'],
  ['subject', 'Subject'],
  ['reviewBy', 'Review date'],
];

/** Fields, and the encoding of a text: what is told of a version beside what is written in it. */
function comparedFields(older: Side, newer: Side, list: ChangeList): ComparedPart {
  const blocks = fieldNames.flatMap(([key, what]): ComparedBlock[] => {
    const [was = '', now = ''] = [older, newer].map(({ fields }) => [fields[key] ?? []].flat().join(', '));
    if (was === now) return [];
    return [comparedText(paragraph(was), paragraph(now), { where: 'field', what }, list)];
  });
  const [ownThen = {}, ownNow = {}] = [older, newer].map(({ fields }) => fields.own);
  for (const what of Object.keys({ ...ownThen, ...ownNow })) {
    const [was, now] = [wordsIn(ownThen, what), wordsIn(ownNow, what)];
    if (was !== now)
      blocks.push(comparedText(paragraph(was), paragraph(now), { where: 'field', what }, list));
  }
  const [was, now] = [older.reading.encoding, newer.reading.encoding];
  if (was && now && was !== now)
    blocks.push(replaced('Encoding', encodingNames[was], encodingNames[now], list));
  blocks.push(...besides(older.reading, newer.reading, list));
  return { where: 'field', label: 'Fields', blocks };
}

/** What prints and is in no block: that it came, went or differs, where it cannot be shown how. */
function besides(older: Reading, newer: Reading, list: ChangeList): ComparedBlock[] {
  const [was, now] = [older, newer].map(
    ({ beside = [] }) => new Map(beside.map(({ what, hash }) => [what, hash])),
  ) as [Map<string, string>, Map<string, string>];
  if (was.size === 0 || now.size === 0) return [];
  return [...new Set([...was.keys(), ...now.keys()])].flatMap((what) => {
    const isOneSided = !was.has(what) || !now.has(what);
    if (was.get(what) === now.get(what) || (isOneSided && what.startsWith(styleWord))) return [];
    const oneSided = was.has(what) ? 'is gone' : 'is new';
    const said = isOneSided ? oneSided : 'differs';
    return [replaced(what, '', `${said}, cannot be shown here`, list)];
  });
}

/** A field of the library's own in words; a person is named by whoever asks, before. */
const wordsIn = (own: OwnValues, name: string): string => {
  const value = own[name];
  return value === undefined ? '' : valueWords(value, (id) => id);
};

/** A value that stands for another as a whole. */
function replaced(what: string, before: string, after: string, list: ChangeList): ComparedText {
  const about = { kind: 'changed' as const, where: 'field' as const, what, before, after };
  const change = list.add({ ...about, wordsDeleted: 0, wordsInserted: 0 });
  const runs: ComparedRun[] = [
    { text: before, status: 'deleted' },
    { text: after, status: 'inserted' },
  ];
  return { ...paragraph(after), status: 'changed', change, runs };
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

/**
 * Blocks as they are compared: where a comment is made, where a program began a page, and whether a change
 * is tracked, is no difference in what is written.
 */
const comparable = (blocks: readonly Block[]): Block[] =>
  blocks
    .filter((block) => block.kind !== 'pageBreak' || !block.drawn)
    .map((block) =>
      'runs' in block && block.runs.some(isRemark) ? { ...block, runs: withoutRemarks(block.runs) } : block,
    );
const isRemark = ({ comment, tracked }: Run): boolean => comment !== undefined || tracked !== undefined;

/** Runs as they read: where a comment stands, and what changes are tracked, parts no words. */
function withoutRemarks(runs: readonly Run[]): Run[] {
  const made: Run[] = [];
  for (const { tracked, ...run } of runs) {
    if (run.comment !== undefined || tracked?.gone) continue;
    const last = made.at(-1);
    if (last && joinable(last, run)) last.text += run.text;
    else made.push({ ...run });
  }
  return made;
}

/**
 * Equal keys mean a reader sees the same: same kind, same text, same style, same pictures. List marks may
 * differ.
 */
function keyOf(block: Block): string {
  if (block.kind === 'pageBreak') return 'page break';
  if (block.kind === 'table') return `table ${block.rest ?? ''} ${block.rows.map(keyOfRow).join('\n')}`;
  const runs = block.runs.map((run) => {
    if (run.image) return `[image ${run.image.hash} ${run.image.alt} ${run.image.width}x${run.image.height}]`;
    if (run.field) return `[${run.field}]`;
    return run.note === undefined ? `${lookOfRun(run)}\u0001${run.text}` : '[note]';
  });
  return `${block.kind} ${block.level} ${lookOfBlock(block)} ${runs.join('\u0002')}`;
}

/** Keys of rows: the whole table is compared by them first, then each row. */
const rowKeys = new WeakMap<Row, string>();

function keyOfRow(row: Row): string {
  const known = rowKeys.get(row);
  if (known !== undefined) return known;
  const key = JSON.stringify(
    row.cells.flatMap((cell) => [cell.columns, cell.rows, ...comparable(cell.blocks).map(keyOf)]),
  );
  rowKeys.set(row, key);
  return key;
}

const alignableOf = (block: Block): Alignable => ({
  key: keyOf(block),
  family: 'runs' in block ? 'text' : block.kind,
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
  a: readonly Block[],
  b: readonly Block[],
  where: Where,
  list: ChangeList,
): ComparedBlock[] {
  const both = laid(a, b);
  const places = align(both.itemsA, both.itemsB);
  return comparedPlaces(both, { places, moved: findMoves(places, both.itemsA, both.itemsB) }, where, list);
}

const isText = (block: Block): block is TextBlock => 'runs' in block;

const lineOf = ({ runs }: TextBlock): Alignable => {
  const text = textOfRuns(runs);
  return { key: text, family: 'text', text };
};

/** Two texts: their lines, or words over line ends where they were wrapped anew. */
function comparedLines(a: readonly TextBlock[], b: readonly TextBlock[], list: ChangeList): ComparedBlock[] {
  const { stretches, isShortest } = stretchesOf(a, b);
  list.isShortest &&= isShortest;
  const places = stretches.flatMap((stretch) => (stretch.kind === 'lines' ? stretch.places : []));
  const both = { a, b, itemsA: a.map(lineOf), itemsB: b.map(lineOf) };
  const moved = findMoves(places, both.itemsA, both.itemsB);
  return stretches.flatMap((stretch) =>
    stretch.kind === 'lines'
      ? comparedPlaces(both, { places: stretch.places, moved }, 'body', list)
      : stretch.lines.map((line) => wovenLine(line, list)),
  );
}

/** A line of words that were compared over line ends. */
function wovenLine({ runs, joined }: WovenLine, list: ChangeList): ComparedText {
  const isTold = (run: ComparedRun): boolean => run.status !== 'same' && run.text.trim() !== '';
  const change = runs.some(isTold) ? list.add(changeOfLine(runs.filter(isTold))) : null;
  const status = change === null ? ('same' as const) : ('changed' as const);
  const line = { kind: 'paragraph' as const, level: 0, runs, status, change };
  return joined ? { ...line, joined: true } : line;
}

function changeOfLine(changed: readonly ComparedRun[]): Omit<TextChange, 'id' | 'how' | 'place'> {
  const [before, after] = (['deleted', 'inserted'] as const).map((status) =>
    changed
      .flatMap((run) => (run.status === status ? [run.text] : []))
      .join(' … ')
      .trim(),
  ) as [string, string];
  const [wordsDeleted, wordsInserted] = [countWords(before), countWords(after)];
  return { kind: 'changed', where: 'body', what: 'line', before, after, wordsDeleted, wordsInserted };
}

/** Blocks of two versions, and what their alignment knows of each. */
interface Laid {
  a: readonly Block[];
  b: readonly Block[];
  itemsA: readonly Alignable[];
  itemsB: readonly Alignable[];
}
const laid = (a: readonly Block[], b: readonly Block[]): Laid => ({
  a,
  b,
  itemsA: a.map(alignableOf),
  itemsB: b.map(alignableOf),
});

function comparedPlaces(
  { a, b, itemsA, itemsB }: Laid,
  { places, moved }: { places: readonly Aligned[]; moved: ReturnType<typeof findMoves> },
  where: Where,
  list: ChangeList,
): ComparedBlock[] {
  // Items that came or went renumber those behind them; without any a new number is a change of its own.
  const isItem = (block: Block | undefined): boolean => block !== undefined && 'marker' in block;
  const isExplained = places.some((place) =>
    place.a === null || place.b === null
      ? isItem(a[place.a ?? -1]) || isItem(b[place.b ?? -1])
      : isItem(a[place.a]) !== isItem(b[place.b]),
  );
  return places.map((place): ComparedBlock => {
    const older = place.a === null ? null : elementAt(a, place.a);
    const newer = place.b === null ? null : elementAt(b, place.b);
    if (newer?.kind === 'heading' && !list.cell) list.heading = textOfBlock(newer);
    if (older && newer) {
      if (elementAt(itemsA, place.a as number).key === elementAt(itemsB, place.b as number).key)
        return isExplained ? sameButForMark(older, newer) : renumbered(older, newer, where, list);
      if (older.kind === 'table' && newer.kind === 'table') return comparedTable(older, newer, where, list);
      if ('runs' in older && 'runs' in newer)
        return comparedText(older, newer, { where, what: nameOf(newer, list) }, list);
    }
    const block = (newer ?? older) as Block;
    const text = textOfBlock(block);
    if (newer && moved.to.has(place.b as number)) {
      const change = list.add({
        kind: 'moved',
        where,
        what: nameOf(block, list),
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

const sameButForMark = (older: Block, newer: Block): ComparedBlock => ({
  ...oneSided(newer, 'same', null),
  ...markBefore(older, newer),
});

/** What both have alike; an item that has another number is told. */
function renumbered(older: Block, newer: Block, where: Where, list: ChangeList): ComparedBlock {
  const same = sameButForMark(older, newer);
  if (!('markerWas' in same) || !('runs' in older)) return same;
  const text = textOfBlock(newer);
  const change = list.add({
    kind: 'restyled',
    where,
    what: nameOf(newer, list),
    before: text,
    after: text,
    how: `number ${same.markerWas || 'none'} → ${('marker' in newer && newer.marker) || 'none'}`,
    wordsDeleted: 0,
    wordsInserted: 0,
  });
  return { ...same, status: 'restyled', change, was: older };
}

function addOneSided(
  block: Block,
  status: 'inserted' | 'deleted',
  where: Where,
  list: ChangeList,
): ComparedBlock {
  const words = countWords(textOfBlock(block));
  const text = textOfBlock(block);
  if (text.trim() === '' && 'runs' in block && !block.runs.some((run) => run.image))
    return oneSided(block, status, null);
  const change = list.add({
    kind: status,
    where,
    what: nameOf(block, list),
    before: status === 'deleted' ? text : '',
    after: status === 'inserted' ? text : '',
    wordsDeleted: status === 'deleted' ? words : 0,
    wordsInserted: status === 'inserted' ? words : 0,
  });
  return oneSided(block, status, change);
}

function findMoves(
  places: readonly Aligned[],
  a: readonly Alignable[],
  b: readonly Alignable[],
  fewest = wordsOfAMove,
): { from: Set<number>; to: Set<number> } {
  const gone = new Map<string, number[]>();
  for (const place of places) {
    if (place.b !== null || place.a === null) continue;
    const item = elementAt(a, place.a);
    if (item.text.split(/\s+/).filter(Boolean).length >= fewest)
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

/** What is changed, in a word; a paragraph in a table is its cell. */
const nameOf = (block: Block, list: ChangeList): string =>
  list.cell && block.kind === 'paragraph' ? 'table cell' : kindOfBlock(block);

const runStatuses: Partial<Record<BlockStatus, ComparedRun['status']>> = {
  deleted: 'deleted',
  movedAway: 'deleted',
  inserted: 'inserted',
  moved: 'inserted',
};

/** A block that one side has, or both alike. */
function oneSided(block: Block, status: BlockStatus, change: number | null): ComparedBlock {
  if (block.kind === 'pageBreak') return { kind: 'pageBreak', status, change };
  const runStatus = runStatuses[status] ?? 'same';
  if (block.kind !== 'table')
    return { ...block, status, change, runs: block.runs.map((run) => ({ ...run, status: runStatus })) };
  return {
    ...directionOf(block),
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
const directionOf = ({ direction }: TableBlock): Pick<TableBlock, 'direction'> =>
  direction ? { direction } : {};
const cellsAs = (row: Row, status: BlockStatus): ComparedCell[] =>
  row.cells.map((cell) => ({
    ...cell,
    status: runStatuses[status] ?? 'same',
    blocks: comparable(cell.blocks).map((block) => oneSided(block, status, null)),
  }));

/** The mark of a list item in the older version, where it was another: "3." became "4.". */
function markBefore(older: Block, newer: Block): Pick<ComparedText, 'markerWas'> {
  const [was, now] = [older, newer].map((block) => ('runs' in block ? (block.marker ?? '') : ''));
  return was === now ? {} : { markerWas: was ?? '' };
}

function comparedText(
  older: TextBlock,
  newer: TextBlock,
  { where, what }: { where: Where; what: string },
  list: ChangeList,
): ComparedText {
  const words = compareWords(older.runs, newer.runs);
  list.isShortest &&= words.isShortest;
  const differs = words.runs.some((run) => run.status !== 'same');
  const how = formattingChanges(older, newer, words.restyled).join(', ');
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
    how,
    wordsDeleted: words.wordsDeleted,
    wordsInserted: words.wordsInserted,
  });
  const was = differs ? markBefore(older, newer) : { was: older };
  return { ...newer, status: kind, change, runs: words.runs, ...was };
}

function comparedTable(older: TableBlock, newer: TableBlock, where: Where, list: ChangeList): ComparedTable {
  const rowItem = (row: Row): Alignable => ({
    key: keyOfRow(row),
    family: 'row',
    text: row.cells.map((cell) => textOfBlocks(cell.blocks)).join(' '),
  });
  const itemsA = older.rows.map(rowItem);
  const itemsB = newer.rows.map(rowItem);
  const places = pairLeftovers(align(itemsA, itemsB), older, newer);
  const moved = findMoves(places, itemsA, itemsB, 1);
  const outer = list.cell;
  const rows = places.map((place): ComparedRow => {
    const a = place.a === null ? null : elementAt(older.rows, place.a);
    const b = place.b === null ? null : elementAt(newer.rows, place.b);
    list.cell = { row: (place.b ?? place.a ?? 0) + 1, column: null };
    if (a && b) {
      if (elementAt(itemsA, place.a as number).key === elementAt(itemsB, place.b as number).key) {
        return { status: 'same', change: null, header: b.header, cells: cellsAs(b, 'same') };
      }
      return { status: 'changed', change: null, header: b.header, cells: comparedCells(a, b, where, list) };
    }
    const row = (b ?? a) as Row;
    if (a && moved.from.has(place.a as number))
      return { status: 'movedAway', change: null, header: row.header, cells: cellsAs(row, 'movedAway') };
    const isMoved = b !== null && moved.to.has(place.b as number);
    const oneSidedKind = b ? ('inserted' as const) : ('deleted' as const);
    const kind = isMoved ? ('moved' as const) : oneSidedKind;
    const text = row.cells.map((cell) => textOfBlocks(cell.blocks)).join(' · ');
    const words = isMoved ? 0 : countWords(text);
    const change = list.add({
      kind,
      where,
      what: 'table row',
      before: kind === 'inserted' ? '' : text,
      after: kind === 'deleted' ? '' : text,
      wordsDeleted: b ? 0 : words,
      wordsInserted: b ? words : 0,
    });
    return { status: kind, change, header: row.header, cells: cellsAs(row, kind) };
  });
  list.cell = outer;
  const change = older.rest === newer.rest ? null : list.add(restyledTable(newer, where));
  return { ...directionOf(newer), kind: 'table', status: 'changed', change, rows };
}

/** A table whose style, borders or widths differ, which the page does not show. */
const restyledTable = (table: TableBlock, where: Where): Omit<TextChange, 'id' | 'place'> => ({
  kind: 'restyled',
  where,
  what: 'table',
  before: '',
  after: textOfBlock(table),
  how: 'style, borders or widths, not shown here',
  wordsDeleted: 0,
  wordsInserted: 0,
});

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
  const left = new Map<string, { a: number; at: number }>();
  for (const [at, { a, b }] of places.entries())
    if (a !== null && b === null && first(older, a) !== '') left.set(first(older, a), { a, at });
  const taken = new Set<number>();
  const paired = places.map((place, at) => {
    if (place.a !== null || place.b === null) return place;
    const gone = left.get(first(newer, place.b));
    if (gone === undefined || taken.has(gone.a)) return place;
    // Another row of the older between them would stand in another order than it did.
    const between = places.slice(Math.min(gone.at, at) + 1, Math.max(gone.at, at));
    if (between.some(({ a }) => a !== null)) return place;
    taken.add(gone.a);
    return { a: gone.a, b: place.b };
  });
  return paired.filter((place) => place.b !== null || !taken.has(place.a as number));
}

/** Cells pair by column where the rows have as many; otherwise by likeness of their texts. */
function comparedCells(older: Row, newer: Row, where: Where, list: ChangeList): ComparedCell[] {
  const item = (cell: { blocks: Block[] }): Alignable => ({
    key: textOfBlocks(cell.blocks),
    family: 'cell',
    text: textOfBlocks(cell.blocks),
  });
  const places =
    older.cells.length === newer.cells.length
      ? newer.cells.map((_, index) => ({ a: index, b: index }))
      : align(older.cells.map(item), newer.cells.map(item));
  const { cell: outer } = list;
  const row = outer?.row ?? 1;
  const cells = places.map((place): ComparedCell => {
    const a = place.a === null ? null : older.cells[place.a];
    const b = place.b === null ? null : newer.cells[place.b];
    const { columns, rows } = (b ?? a) as { columns: number; rows: number };
    const oneSidedStatus = b ? ('inserted' as const) : ('deleted' as const);
    list.cell = { row, column: (place.b ?? place.a ?? 0) + 1 };
    const [was, now] = [comparable(a?.blocks ?? []), comparable(b?.blocks ?? [])];
    const [onlyA, onlyB] = [was[0], now[0]];
    // One paragraph each is that paragraph changed, however little of it stayed: 14 became 12.
    const isOne =
      was.length === 1 && now.length === 1 && onlyA && 'runs' in onlyA && onlyB && 'runs' in onlyB;
    const blocks =
      isOne && keyOf(onlyA) !== keyOf(onlyB)
        ? [comparedText(onlyA, onlyB, { where, what: 'table cell' }, list)]
        : comparedBlocks(was, now, where, list);
    return { columns, rows, status: a && b ? 'same' : oneSidedStatus, blocks };
  });
  list.cell = outer;
  return cells;
}
