import { isRefusal, type Refusal } from '../../document/refusal.ts';
import {
  type Block,
  boundReading,
  type Cell,
  type Comment,
  type Margin,
  type Note,
  type Reading,
  type TextBlock,
  readingLimits,
  tooMuchToRead,
} from '../reading.ts';
import { child, descendants, type Element, elements } from '../xml/xml.ts';
import { crc32 } from '../zip/readZip.ts';
import { type DocxPackage, openDocx } from './package.ts';
import { besideOf, isMacro, restOfParagraph, restOfTable } from './beside.ts';
import { type ListCounter, type NumberingPart, readNumbering } from './lists.ts';
import { type InlineWalk, RunReader } from './runs.ts';
import { onOff, readStyles, type StyleSheet } from './styles.ts';

/** What the walk over the body carries along. */
interface Walk extends InlineWalk {
  lists: ListCounter;
  room: Room;
}

/** Thrown through the walk where a file holds more than is read: what follows would change nothing. */
class TooMuch extends Error {
  constructor(readonly what: 'paragraphs' | 'characters') {
    super(`too many ${what}`);
  }
}

/** How much may still be read of a file, whatever of it is read again. */
class Room {
  private readonly left: { blocks: number; characters: number };

  constructor(most = readingLimits) {
    this.left = { ...most };
  }

  /** Takes a block with its text. */
  take(block: TextBlock): void {
    this.left.blocks -= 1;
    for (const { text } of block.runs) this.left.characters -= text.length;
    if (this.left.blocks < 0) throw new TooMuch('paragraphs');
    if (this.left.characters < 0) throw new TooMuch('characters');
  }
}

/**
 * Reads a .docx into blocks (ECMA-376 part 1, WordprocessingML): headings, paragraphs, list items, tables,
 * headers, footers, foot- and endnotes, pictures. Tracked changes are read as accepted.
 */
export function readDocx(bytes: Uint8Array): Reading | Refusal {
  const pack = openDocx(bytes);
  if (isRefusal(pack)) return pack;
  return new DocxReader(pack).read();
}

/** Blocks of one element, and which notes their marks stand for. */
export interface ElementReading {
  blocks: Block[];
  notes: { kind: 'footnote' | 'endnote'; id: string; number: number }[];
}

/** Reads elements of a package one by one, as if each stood alone: lists begin anew. */
export function elementReader(pack: DocxPackage): (element: Element, part: string) => ElementReading {
  const reader = new DocxReader(pack);
  return (element, part) => reader.readElement(element, part);
}

/** Reads a package's stories into blocks. */
class DocxReader {
  private readonly refusals: Refusal[] = [];
  private readonly hashes = new Map<string, string>();
  private readonly room = new Room();
  private readonly marginBlocks = new Map<string, Block[]>();
  private readonly styles: StyleSheet;
  private readonly numbering: NumberingPart;

  constructor(private readonly pack: DocxPackage) {
    this.styles = readStyles(this.related('styles'));
    this.numbering = readNumbering(this.related('numbering'));
  }

  read(): Reading | Refusal {
    try {
      return this.readAll();
    } catch (error) {
      if (error instanceof TooMuch) return this.refusals[0] ?? tooMuchToRead(error.what);
      throw error;
    }
  }

  private readAll(): Reading | Refusal {
    const { pack } = this;
    const body = child(this.xml(pack.main), 'w:body');
    const walk = this.walkFor(pack.main, this.room);
    const blocks = body ? readBlocks(body, walk) : [];
    const margins = (body ? descendants(body, 'w:sectPr') : []).flatMap((section, index) =>
      this.marginsOf(section, index + 1),
    );
    const notes = this.notesOf(walk.noteNumbers);
    const comments = this.commentsOf(walk.comments);
    const pending = body ? pendingIn(body) : { inserted: 0, deleted: 0 };
    const unshown = [...walk.unshown].map(([what, count]) => ({ what, count }));
    // Said, and never run.
    if (pack.names.some((name) => isMacro.test(name))) unshown.push({ what: 'macro project', count: 1 });
    const reading: Reading = {
      format: 'docx',
      blocks,
      margins,
      notes,
      ...(comments.length > 0 ? { comments } : {}),
      ...(pending.inserted + pending.deleted > 0 ? { pending } : {}),
      ...(unshown.length > 0 ? { unshown } : {}),
      beside: besideOf(pack, { body, texts: this.stories(body), styles: this.related('styles') }),
    };
    return this.refusals[0] ?? boundReading(reading);
  }

  /** The texts of a file: its body, headers, footers and notes. */
  private stories(body: Element | undefined): Element[] {
    const names = [...this.pack.relations(this.pack.main).values()]
      .filter(({ type, external }) => !external && /^(?:header|footer|footnotes|endnotes)$/.test(type))
      .map(({ target }) => target);
    return [body, ...[...new Set(names)].map((name) => this.xml(name))].flatMap((text) => text ?? []);
  }

  readElement(element: Element, part: string): ElementReading {
    // The file has been read whole before.
    const walk = this.walkFor(part, new Room({ blocks: Infinity, characters: Infinity }));
    const blocks = readBlocks({ name: '', attributes: {}, children: [element] }, walk);
    const notes = [...walk.noteNumbers].map(([key, number]) => {
      const [kind, id = ''] = key.split(':');
      return { kind: kind === 'endnote' ? ('endnote' as const) : ('footnote' as const), id, number };
    });
    return { blocks, notes };
  }

  private marginsOf(section: Element, number: number): Margin[] {
    const relations = this.pack.relations(this.pack.main);
    return elements(section).flatMap((reference) => {
      const kind = marginKinds[reference.name] ?? null;
      const target = relations.get(reference.attributes['r:id'] ?? '')?.target;
      const root = kind && target ? this.xml(target) : undefined;
      if (!kind || !target || !root) return [];
      const pages = reference.attributes['w:type'];
      // First and even pages have their own only where that is asked for (ECMA-376 part 1, 17.10.1 and
      // 17.10.6).
      if (pages === 'first' && !onOff(child(section, 'w:titlePg'))) return [];
      if (pages === 'even' && !this.evenPages) return [];
      // Often the same for every section.
      const blocks = this.marginBlocks.get(target) ?? readBlocks(root, this.walkFor(target, this.room));
      this.marginBlocks.set(target, blocks);
      return [
        { kind, section: number, pages: pages === 'first' || pages === 'even' ? pages : 'default', blocks },
      ];
    });
  }

  private get evenPages(): boolean {
    return onOff(child(this.related('settings'), 'w:evenAndOddHeaders')) ?? false;
  }

  private commentsOf(ids: readonly string[]): Comment[] {
    const part = this.pack.related('comments');
    if (part === undefined || ids.length === 0) return [];
    const walk = this.walkFor(part, this.room);
    const byId = new Map(
      elements(this.xml(part), 'w:comment').map((each) => [each.attributes['w:id'] ?? '', each]),
    );
    return ids.flatMap((id, index): Comment[] => {
      const comment = byId.get(id);
      if (!comment) return [];
      const { 'w:author': author = '', 'w:date': at } = comment.attributes;
      const told = at !== undefined && !Number.isNaN(Date.parse(at)) ? at : null;
      return [{ number: index + 1, author, at: told, blocks: readBlocks(comment, walk) }];
    });
  }

  private notesOf(numbers: ReadonlyMap<string, number>): Note[] {
    const notes: Note[] = [];
    for (const kind of ['footnote', 'endnote'] as const) {
      const part = this.pack.related(`${kind}s`);
      if (part === undefined) continue;
      const walk = this.walkFor(part, this.room);
      for (const note of elements(this.xml(part), `w:${kind}`)) {
        const number = numbers.get(`${kind}:${note.attributes['w:id'] ?? ''}`);
        if (number !== undefined) notes.push({ number, kind, blocks: readBlocks(note, walk) });
      }
    }
    return notes.sort((a, b) => a.number - b.number);
  }

  private related(type: string): Element | undefined {
    const part = this.pack.related(type);
    return part === undefined ? undefined : this.xml(part);
  }

  private xml(name: string): Element | undefined {
    const parsed = this.pack.xml(name);
    if (!parsed) return undefined;
    if (!isRefusal(parsed)) return parsed.root;
    this.refusals.push(parsed);
    return undefined;
  }

  private pictureHash(part: string): string {
    const known = this.hashes.get(part);
    if (known !== undefined) return known;
    const bytes = this.pack.part(part);
    const made = isRefusal(bytes) ? '' : `${bytes.length}-${crc32(bytes).toString(16)}`;
    this.hashes.set(part, made);
    return made;
  }

  private walkFor(part: string, room: Room): Walk {
    const { styles, numbering } = this;
    return {
      styles,
      room,
      lists: numbering.counter(),
      noteNumbers: new Map(),
      comments: [],
      unshown: new Map(),
      relations: this.pack.relations(part),
      pictureHash: (picture) => this.pictureHash(picture),
    };
  }
}

function readBlocks(parent: Element, walk: Walk): Block[] {
  return joinedParagraphs(elements(parent)).flatMap((element): Block[] => {
    switch (element.name) {
      case 'w:p':
        return readParagraph(element, walk);
      case 'w:tbl':
        return [readTable(element, walk)];
      case 'w:sdt':
        return readBlocks(child(element, 'w:sdtContent') ?? { name: '', attributes: {}, children: [] }, walk);
      case 'w:ins':
      case 'w:moveTo':
      case 'w:customXml':
      case 'w:smartTag':
        return readBlocks(element, walk);
      default:
        return [];
    }
  });
}

/** A paragraph whose end a tracked change takes out goes on in the next one (ECMA-376 part 1, 17.13.5.15). */
function joinedParagraphs(blocks: readonly Element[]): Element[] {
  const joined: Element[] = [];
  let before: Element['children'] = [];
  // Appended to: as many as there are paragraphs may be joined into one.
  for (const [index, block] of blocks.entries()) {
    const mark = child(child(block, 'w:pPr'), 'w:rPr');
    const goes = block.name === 'w:p' && (child(mark, 'w:del') ?? child(mark, 'w:moveFrom'));
    const inside = (): Element['children'] =>
      block.children.filter((each) => typeof each === 'string' || each.name !== 'w:pPr');
    if (goes && blocks[index + 1]?.name === 'w:p') {
      for (const part of inside()) before.push(part);
      continue;
    }
    const own = elements(block, 'w:pPr');
    joined.push(before.length > 0 ? { ...block, children: [...own, ...before, ...inside()] } : block);
    before = [];
  }
  return joined;
}

/** Tracked changes that wait in a text. */
function pendingIn(body: Element): { inserted: number; deleted: number } {
  const count = (...names: string[]): number =>
    names.reduce((sum, name) => sum + descendants(body, name).length, 0);
  return { inserted: count('w:ins', 'w:moveTo'), deleted: count('w:del', 'w:moveFrom') };
}

function readParagraph(paragraph: Element, walk: Walk): Block[] {
  const properties = child(paragraph, 'w:pPr');
  const style = walk.styles.paragraph(child(properties, 'w:pStyle')?.attributes['w:val']);
  const alignment = child(properties, 'w:jc')?.attributes['w:val'] ?? style.align;
  const list = walk.lists.next(child(properties, 'w:numPr') ?? style.numPr, style.id);
  const reader = new RunReader(walk, {
    ...(style.bold ? { bold: true } : {}),
    ...(style.italic ? { italic: true } : {}),
    ...style.look,
  });
  reader.read(paragraph);
  const outline = child(properties, 'w:outlineLvl')?.attributes['w:val'];
  const heading = outline === undefined ? style.headingLevel : headingOf(outline);

  const block: TextBlock = { kind: 'paragraph', level: 0, runs: reader.runs };
  walk.room.take(block);
  if (heading !== null) Object.assign(block, { kind: 'heading', level: heading });
  else if (list) Object.assign(block, { kind: 'listItem', level: list.level });
  if (list?.marker) block.marker = list.marker;
  if (list && heading === null) block.list = /^[•–]$/.test(list.marker) ? 'bullet' : 'number';
  const place = child(properties, 'w:ind')?.attributes ?? {};
  const indent = Number(place['w:start'] ?? place['w:left'] ?? 0) / 20;
  if (indent !== 0 && Number.isFinite(indent)) block.indent = indent;
  const shading = child(properties, 'w:shd')?.attributes['w:fill'];
  if (shading && shading !== 'auto') block.shading = shading.toLowerCase();
  const isRightToLeft = onOff(child(properties, 'w:bidi')) === true;
  if (isRightToLeft) block.direction = 'rtl';
  const align = alignments[alignment ?? ''];
  if (align) block.align = isRightToLeft ? mirrored(align) : align;

  const rest = restOfParagraph(paragraph);
  if (rest !== undefined) block.rest = rest;

  const isAsked = onOff(child(properties, 'w:pageBreakBefore')) || reader.breakAt === 'start';
  const drawn: Block[] = reader.breakAt === 'drawn' ? [{ kind: 'pageBreak', drawn: true }] : [];
  const before: Block[] = isAsked ? [{ kind: 'pageBreak' }] : drawn;
  const section = child(properties, 'w:sectPr');
  const breaksAfter =
    reader.breakAt === 'end' ||
    (section !== undefined && child(section, 'w:type')?.attributes['w:val'] !== 'continuous');
  const after: Block[] = breaksAfter ? [{ kind: 'pageBreak' }] : [];
  return [...before, block, ...reader.boxes.flatMap((box) => readBlocks(box, walk)), ...after];
}

const alignments: Record<string, TextBlock['align']> = {
  left: 'left',
  start: 'left',
  center: 'center',
  right: 'right',
  end: 'right',
  both: 'justify',
  distribute: 'justify',
};
/** Left and right are the leading and the trailing side (ECMA-376 part 1, 17.3.1.13). */
function mirrored(align: NonNullable<TextBlock['align']>): TextBlock['align'] {
  if (align === 'left') return 'right';
  return align === 'right' ? 'left' : align;
}
const headingOf = (outline: string): number | null => (/^[0-5]$/.test(outline) ? Number(outline) + 1 : null);

/** The elements of a section that refer to its margins (ECMA-376, part 1, 17.10). */
const marginKinds: Readonly<Record<string, Margin['kind']>> = {
  'w:headerReference': 'header',
  'w:footerReference': 'footer',
};

function readTable(table: Element, walk: Walk): Block {
  const open = new Map<number, Cell>();
  const rows = elements(table)
    // A row that a tracked change takes out is gone, as is a cell (ECMA-376 part 1, 17.13.5.12 and
    // 17.13.5.1).
    .filter((row) => row.name === 'w:tr' && !child(child(row, 'w:trPr'), 'w:del'))
    .map((row) => {
      const properties = child(row, 'w:trPr');
      const cells: Cell[] = [];
      let column = Number(child(properties, 'w:gridBefore')?.attributes['w:val'] ?? 0) || 0;
      for (const cell of cellsOf(row)) {
        const cellProperties = child(cell, 'w:tcPr');
        const columns = Math.min(
          63,
          Math.max(1, Number(child(cellProperties, 'w:gridSpan')?.attributes['w:val'] ?? 1) || 1),
        );
        const merge = child(cellProperties, 'w:vMerge');
        const above = open.get(column);
        if (merge && merge.attributes['w:val'] !== 'restart' && above) above.rows += 1;
        else {
          const made: Cell = { blocks: readBlocks(cell, walk), columns, rows: 1 };
          cells.push(made);
          if (merge) open.set(column, made);
          else open.delete(column);
        }
        column += columns;
      }
      return { header: onOff(child(properties, 'w:tblHeader')) === true, cells };
    });
  const isRightToLeft = onOff(child(child(table, 'w:tblPr'), 'w:bidiVisual')) === true;
  const rest = restOfTable(table);
  return {
    kind: 'table',
    rows,
    ...(isRightToLeft ? { direction: 'rtl' as const } : {}),
    ...(rest === undefined ? {} : { rest }),
  };
}

/** A row's cells, also those inside content controls. */
function cellsOf(row: Element): Element[] {
  return elements(row).flatMap((each) => {
    if (each.name === 'w:tc') return child(child(each, 'w:tcPr'), 'w:cellDel') ? [] : [each];
    if (each.name === 'w:sdt') return cellsOf(child(each, 'w:sdtContent') ?? each);
    return [];
  });
}
