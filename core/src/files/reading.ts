import { refuse, type Refusal } from '../document/refusal.ts';
import type { Encoding } from './text/encoding.ts';

/** The one block model that files are read into: what the page shows, and what compare aligns. */

/** Who tracked a change in a file and when (ISO 8601), where the file tells; what it takes out. */
export interface Tracked {
  by: string;
  at: string | null;
  gone?: string;
}

/** A stretch of text in one style; or an image, a note mark, or a field such as the page number. */
export interface Run {
  text: string;
  bold?: boolean;
  italic?: boolean;
  underline?: boolean;
  strike?: boolean;
  code?: boolean;
  vertical?: 'super' | 'sub';
  /** An http, https or mailto address. */
  href?: string;
  /** Where a link leads that cannot be followed from the page: a file, or `#` and a bookmark of this one. */
  target?: string;
  /** Colour and highlighting as the file names them; size in points. */
  colour?: string;
  highlight?: string;
  size?: number;
  caps?: 'all' | 'small';
  /** A change tracked in the file and not accepted: the run came with it, or in its place stood `gone`. */
  tracked?: Tracked;
  /** Number of the comment that stands here. */
  comment?: number;
  /** The page number or the number of pages, filled in where it is shown. */
  field?: 'page' | 'pages';
  /** Number of the note this mark points at. */
  note?: number;
  /** A picture by its part's name in the file, with its size in CSS pixels where the file tells. */
  image?: { part: string; alt: string; width: number | null; height: number | null; hash: string };
}

export interface TextBlock {
  kind: 'paragraph' | 'heading' | 'listItem';
  runs: Run[];
  /** Headings 1 to 6 (0 is the title); list items from 0. */
  level: number;
  align?: 'left' | 'center' | 'right' | 'justify';
  /** From the left margin, in points. */
  indent?: number;
  /** Whether it is written from right to left, whatever its first letter. */
  direction?: 'rtl';
  /** The colour behind it. */
  shading?: string;
  /** Whether a list item is numbered or marked. */
  list?: 'number' | 'bullet';
  /** A list item's printed mark: "•", "3.", "b)". */
  marker?: string;
  /** A hash of how it stands otherwise: spacing, borders, tabs, fonts. */
  rest?: string;
}
export interface Cell {
  blocks: Block[];
  columns: number;
  rows: number;
}
export interface TableBlock {
  kind: 'table';
  /** Whether its first column stands at the right. */
  direction?: 'rtl';
  /** A hash of how it looks: style, borders, widths. */
  rest?: string;
  rows: { header: boolean; cells: Cell[] }[];
}
export interface PageBreak {
  kind: 'pageBreak';
  /** Where a program last began a page of itself: another may begin it elsewhere. */
  drawn?: true;
}
export type Block = TextBlock | TableBlock | PageBreak;

/** A header or footer, for all pages, first pages or even pages of a section. */
export interface Margin {
  kind: 'header' | 'footer';
  pages: 'default' | 'first' | 'even';
  section: number;
  blocks: Block[];
}
export interface Note {
  number: number;
  kind: 'footnote' | 'endnote';
  blocks: Block[];
}

/** A remark on the text. */
export interface Comment {
  number: number;
  author: string;
  /** ISO 8601, where the file tells. */
  at: string | null;
  blocks: Block[];
}

export interface Reading {
  format: 'docx' | 'text' | 'markdown' | 'table';
  /** Of a text: the encoding it is written in. */
  encoding?: Encoding;
  blocks: Block[];
  margins: Margin[];
  notes: Note[];
  comments?: Comment[];
  /** Changes that are tracked in the file and not accepted: it is read as if they were. */
  pending?: { inserted: number; deleted: number };
  /** What the file holds and the page does not show, with how often. */
  unshown?: { what: string; count: number }[];
  /** What prints and is in no block, each with a hash of it. */
  beside?: { what: string; hash: string }[];
}

/**
 * The most a reading may hold: blocks (paragraphs, cells' too) and characters. A book of 100,000 words has
 * some 10,000 blocks and 700,000 characters; what is far above is no document to be read in a page.
 */
export const readingLimits = { blocks: 60_000, characters: 12_000_000 };

/** Says what of a reading is too much. */
export const tooMuchToRead = (what: 'paragraphs' | 'characters'): Refusal => {
  const most = what === 'paragraphs' ? readingLimits.blocks : readingLimits.characters;
  return refuse(
    'invalid',
    'too-complex',
    `The file has more than ${most.toLocaleString('en')} ${what}, which is more than is read in the page. Download the file to open it.`,
    { what, most },
  );
};

/** Calls back with each block, those in cells after their table. */
function eachBlock(blocks: readonly Block[], visit: (block: Block) => void): void {
  for (const block of blocks) {
    visit(block);
    if (block.kind !== 'table') continue;
    for (const { cells } of block.rows) for (const cell of cells) eachBlock(cell.blocks, visit);
  }
}

/** How much a reading holds, about: blocks and characters of text, those of cells, margins and notes too. */
export function sizeOfReading({ blocks, margins, notes, comments }: Reading): {
  blocks: number;
  characters: number;
} {
  const size = { blocks: 0, characters: 0 };
  for (const part of [{ blocks }, ...margins, ...notes, ...(comments ?? [])]) {
    eachBlock(part.blocks, (block) => {
      size.blocks += 1;
      if ('runs' in block) for (const run of block.runs) size.characters += run.text.length;
    });
  }
  return size;
}

/** A part of a reading, and where the next begins; null after the last. */
export interface ReadingPart extends Reading {
  next: number | null;
  /** Blocks of the whole, those in cells not counted. */
  total: number;
}

/** Rows of a file that is a table which come as a block of their own, where it is read part by part. */
const rowsOfAPart = 200;

/** A file that is a table as several, so that it can be read part by part. */
function slicesOf(block: Block): Block[] {
  if (block.kind !== 'table') return [block];
  return Array.from({ length: Math.ceil(block.rows.length / rowsOfAPart) }, (_, at) => ({
    kind: 'table',
    rows: block.rows.slice(at * rowsOfAPart, (at + 1) * rowsOfAPart),
  }));
}

/**
 * The part of a reading that begins with one of its blocks and holds so many, those in cells counted, but at
 * least one; with the notes its blocks refer to. Margins stand in each. A file that is one table comes by
 * rows.
 */
export function partOfReading(whole: Reading, from: number, limit: number): ReadingPart {
  const reading = whole.format === 'table' ? { ...whole, blocks: whole.blocks.flatMap(slicesOf) } : whole;
  let until = from;
  let held = 0;
  const noted = new Set<number>();
  const remarked = new Set<number>();
  for (; until < reading.blocks.length && held < limit; until += 1) {
    eachBlock(reading.blocks.slice(until, until + 1), (block) => {
      held += 1;
      if (!('runs' in block)) return;
      for (const { note, comment } of block.runs) {
        if (note !== undefined) noted.add(note);
        if (comment !== undefined) remarked.add(comment);
      }
    });
  }
  const isWhole = from === 0 && until === reading.blocks.length;
  return {
    ...reading,
    blocks: reading.blocks.slice(from, until),
    notes: isWhole ? reading.notes : reading.notes.filter(({ number }) => noted.has(number)),
    ...(reading.comments && !isWhole
      ? { comments: reading.comments.filter(({ number }) => remarked.has(number)) }
      : {}),
    next: until < reading.blocks.length ? until : null,
    total: reading.blocks.length,
  };
}

/** Parts of a reading, from its first on, as one again. */
export function joinedReading<Part extends Reading>(first: Part, parts: readonly Part[]): Part {
  const blocks = parts.flatMap((part) => part.blocks);
  const rows = blocks.flatMap((block) => (block.kind === 'table' ? block.rows : []));
  return {
    ...first,
    blocks: first.format === 'table' ? [{ kind: 'table', rows }] : blocks,
    notes: parts.flatMap(({ notes }) => notes),
    ...(first.comments ? { comments: parts.flatMap(({ comments = [] }) => comments) } : {}),
  };
}

/** Refuses a reading that holds more than is read in a page. */
export function boundReading(reading: Reading): Reading | Refusal {
  const { blocks, characters } = sizeOfReading(reading);
  if (blocks > readingLimits.blocks) return tooMuchToRead('paragraphs');
  return characters > readingLimits.characters ? tooMuchToRead('characters') : reading;
}

/** The plain text of runs; images, note marks and page fields have none. */
export function textOfRuns(runs: readonly Run[]): string {
  return runs.map((run) => (run.image || run.note !== undefined || run.field ? '' : run.text)).join('');
}

/** The plain text of a block, one line a paragraph and tabs between a row's cells. */
export function textOfBlock(block: Block): string {
  if (block.kind === 'pageBreak') return '';
  if (block.kind !== 'table') return textOfRuns(block.runs);
  return block.rows.map((row) => row.cells.map((cell) => textOfBlocks(cell.blocks)).join('\t')).join('\n');
}
/** The plain text of blocks, one line a paragraph. */
export function textOfBlocks(blocks: readonly Block[]): string {
  return blocks
    .filter((block) => block.kind !== 'pageBreak')
    .map(textOfBlock)
    .join('\n');
}

/**
 * The whole text in reading order: body, then notes. Headers and footers repeat on every page and are left
 * out.
 */
export function textOfReading(reading: Reading): string {
  return [textOfBlocks(reading.blocks), ...reading.notes.map((note) => textOfBlocks(note.blocks))]
    .filter(Boolean)
    .join('\n');
}

/** Number of words: runs of letters or digits, as a person would count them. */
export function countWords(text: string): number {
  let count = 0;
  word.lastIndex = 0;
  // One at a time: a list of all words of a long text would take many times its size.
  while (word.test(text)) count += 1;
  return count;
}
const word = /[\p{L}\p{N}](?:[\p{L}\p{M}\p{N}'’.,_-]*[\p{L}\p{M}\p{N}])?/gu;

/** Whether two runs look the same; `href` tells where they lead. */
export function sameStyle(a: Run, b: Run): boolean {
  return styleKeys.every((key) => a[key] === b[key]) && lookKeys.every((key) => a[key] === b[key]);
}

/** Whether two runs read as one: words in one style, of one tracked change or of none. */
export const joinable = (a: Run, b: Run): boolean =>
  sameStyle(a, b) &&
  a.tracked === b.tracked &&
  ![a, b].some(
    (run) =>
      run.image || run.field || run.tracked?.gone || run.note !== undefined || run.comment !== undefined,
  );

export const styleKeys = [
  'bold',
  'italic',
  'underline',
  'strike',
  'code',
  'vertical',
  'href',
  'target',
] as const;
/** How runs look beside that: what programs write in ways of their own. */
export const lookKeys = ['colour', 'size', 'highlight', 'caps'] as const;
