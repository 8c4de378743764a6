import { isRefusal, type Refusal } from '../../document/refusal.ts';
import {
  type Block,
  boundReading,
  type Cell,
  type Margin,
  type Note,
  type Reading,
  type Run,
  sameStyle,
  type TextBlock,
} from '../reading.ts';
import { child, descendants, type Element, elements, text } from '../xml/xml.ts';
import { type DocxPackage, openDocx, type Relation } from './package.ts';
import { type ListCounter, type NumberingPart, readNumbering } from './lists.ts';
import { onOff, readStyles, type StyleSheet } from './styles.ts';

/** What the walk over the body carries along. */
interface Walk {
  styles: StyleSheet;
  lists: ListCounter;
  relations: Map<string, Relation>;
  noteNumbers: Map<string, number>;
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
  private readonly styles: StyleSheet;
  private readonly numbering: NumberingPart;

  constructor(private readonly pack: DocxPackage) {
    this.styles = readStyles(this.related('styles'));
    this.numbering = readNumbering(this.related('numbering'));
  }

  read(): Reading | Refusal {
    const { pack } = this;
    const body = child(this.xml(pack.main), 'w:body');
    const walk = this.walkFor(pack.main);
    const blocks = body ? readBlocks(body, walk) : [];
    const margins = (body ? descendants(body, 'w:sectPr') : []).flatMap((section, index) =>
      this.marginsOf(section, index + 1),
    );
    const notes = this.notesOf(walk.noteNumbers);
    return this.refusals[0] ?? boundReading({ format: 'docx', blocks, margins, notes });
  }

  readElement(element: Element, part: string): ElementReading {
    const walk = this.walkFor(part);
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
      const blocks = readBlocks(root, this.walkFor(target));
      return [
        { kind, section: number, pages: pages === 'first' || pages === 'even' ? pages : 'default', blocks },
      ];
    });
  }

  private notesOf(numbers: ReadonlyMap<string, number>): Note[] {
    const notes: Note[] = [];
    for (const kind of ['footnote', 'endnote'] as const) {
      const part = this.pack.related(`${kind}s`);
      if (part === undefined) continue;
      const walk = this.walkFor(part);
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

  private walkFor(part: string): Walk {
    const { styles, numbering } = this;
    return {
      styles,
      lists: numbering.counter(),
      noteNumbers: new Map(),
      relations: this.pack.relations(part),
    };
  }
}

function readBlocks(parent: Element, walk: Walk): Block[] {
  return elements(parent).flatMap((element): Block[] => {
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

function readParagraph(paragraph: Element, walk: Walk): Block[] {
  const properties = child(paragraph, 'w:pPr');
  const style = walk.styles.paragraph(child(properties, 'w:pStyle')?.attributes['w:val']);
  const alignment = child(properties, 'w:jc')?.attributes['w:val'] ?? style.align;
  const list = walk.lists.next(child(properties, 'w:numPr') ?? style.numPr, style.id);
  const reader = new RunReader(walk, {
    ...(style.bold ? { bold: true } : {}),
    ...(style.italic ? { italic: true } : {}),
  });
  reader.read(paragraph);
  const outline = child(properties, 'w:outlineLvl')?.attributes['w:val'];
  const heading = outline === undefined ? style.headingLevel : headingOf(outline);

  const block: TextBlock = { kind: 'paragraph', level: 0, runs: reader.runs };
  if (heading !== null) Object.assign(block, { kind: 'heading', level: heading });
  else if (list) Object.assign(block, { kind: 'listItem', level: list.level });
  if (list?.marker) block.marker = list.marker;
  const align = alignments[alignment ?? ''];
  if (align) block.align = align;

  const before: Block[] =
    child(properties, 'w:pageBreakBefore') || reader.breakAt === 'start' ? [{ kind: 'pageBreak' }] : [];
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
const headingOf = (outline: string): number | null => (/^[0-5]$/.test(outline) ? Number(outline) + 1 : null);

/** Collects a paragraph's runs; page breaks and text boxes met on the way are kept beside. */
class RunReader {
  readonly runs: Run[] = [];
  readonly boxes: Element[] = [];
  breakAt: 'start' | 'end' | null = null;
  private fieldCode: string | null = null;
  private fieldResult = false;
  private fieldDone = false;

  constructor(
    private readonly walk: Walk,
    private readonly base: Partial<Run>,
  ) {}

  read(parent: Element, href?: string): void {
    for (const element of elements(parent)) {
      switch (element.name) {
        case 'w:r':
          this.readRun(element, href);
          break;
        case 'w:hyperlink':
          this.read(element, safeHref(this.walk.relations.get(element.attributes['r:id'] ?? '')) ?? href);
          break;
        case 'w:fldSimple':
          this.readField(element, href);
          break;
        case 'w:sdt': {
          const content = child(element, 'w:sdtContent');
          if (content) this.read(content, href);
          break;
        }
        case 'w:ins':
        case 'w:moveTo':
        case 'w:smartTag':
        case 'w:customXml':
        case 'w:dir':
        case 'w:bdo':
          this.read(element, href);
          break;
        case 'm:oMath':
        case 'm:oMathPara':
          this.push({ text: descendants(element, 'm:t').map(text).join('') });
          break;
        default:
          break;
      }
    }
  }

  private readField(element: Element, href?: string): void {
    const field = pageField(element.attributes['w:instr'] ?? '');
    if (field) this.push({ text: text(element) || '1', field });
    else this.read(element, href);
  }

  private readRun(run: Element, href: string | undefined): void {
    const style = { ...this.base, ...this.styleOf(child(run, 'w:rPr')), ...(href ? { href } : {}) };
    if (child(child(run, 'w:rPr'), 'w:vanish')) return;
    for (const element of elements(run)) {
      switch (element.name) {
        case 'w:t':
          this.pushText(text(element), style);
          break;
        case 'w:tab':
        case 'w:ptab':
          this.pushText('\t', style);
          break;
        case 'w:noBreakHyphen':
          this.pushText('\u2011', style);
          break;
        case 'w:cr':
          this.pushText('\n', style);
          break;
        case 'w:sym':
          this.pushText(symbol(element), style);
          break;
        case 'w:br':
          if (element.attributes['w:type'] === 'page') this.markBreak();
          else if (element.attributes['w:type'] !== 'column') this.pushText('\n', style);
          break;
        case 'w:lastRenderedPageBreak':
          if (this.runs.length === 0) this.breakAt = 'start';
          break;
        case 'w:fldChar':
          this.fieldMark(element.attributes['w:fldCharType'] ?? '');
          break;
        case 'w:instrText':
          if (this.fieldCode !== null) this.fieldCode += text(element);
          break;
        case 'w:footnoteReference':
          this.note('footnote', element);
          break;
        case 'w:endnoteReference':
          this.note('endnote', element);
          break;
        case 'w:drawing':
        case 'w:pict':
          this.picture(element);
          break;
        case 'mc:AlternateContent':
          this.alternate(element);
          break;
        default:
          break;
      }
    }
  }

  private markBreak(): void {
    this.breakAt = this.runs.length === 0 ? 'start' : 'end';
  }

  private alternate(element: Element): void {
    const chosen = child(element, 'mc:Choice') ?? child(element, 'mc:Fallback');
    for (const drawing of elements(chosen)) this.picture(drawing);
  }

  private picture(drawing: Element): void {
    const boxes = descendants(drawing, 'w:txbxContent');
    this.boxes.push(...boxes);
    const blip = descendants(drawing, 'a:blip')[0] ?? descendants(drawing, 'v:imagedata')[0];
    const relation = this.walk.relations.get(blip?.attributes['r:embed'] ?? blip?.attributes['r:id'] ?? '');
    if (!relation || relation.external) return;
    const extent = descendants(drawing, 'wp:extent')[0];
    const pixels = (value: string | undefined): number | null =>
      value && Number(value) > 0 ? Math.round(Number(value) / 9525) : null;
    this.push({
      text: '',
      image: {
        part: relation.target,
        alt: descendants(drawing, 'wp:docPr')[0]?.attributes['descr'] ?? '',
        width: pixels(extent?.attributes['cx']),
        height: pixels(extent?.attributes['cy']),
      },
    });
  }

  private note(kind: string, element: Element): void {
    const key = `${kind}:${element.attributes['w:id'] ?? ''}`;
    const number = this.walk.noteNumbers.get(key) ?? this.walk.noteNumbers.size + 1;
    this.walk.noteNumbers.set(key, number);
    this.push({ text: `${number}`, note: number, vertical: 'super' });
  }

  private fieldMark(kind: string): void {
    if (kind === 'begin') {
      this.fieldCode = '';
      this.fieldResult = false;
      this.fieldDone = false;
    } else if (kind === 'separate') this.fieldResult = true;
    else if (kind === 'end') {
      const field = pageField(this.fieldCode ?? '');
      if (field && !this.fieldDone) this.push({ text: '1', field });
      this.fieldCode = null;
      this.fieldResult = false;
    }
  }

  private pushText(value: string, style: Partial<Run>): void {
    const field = this.fieldCode === null ? null : pageField(this.fieldCode);
    if (this.fieldCode !== null && !this.fieldResult) return;
    if (field) {
      if (!this.fieldDone) this.push({ ...style, text: value, field });
      this.fieldDone = true;
      return;
    }
    this.push({ ...style, text: value });
  }

  private push(run: Run): void {
    const last = this.runs.at(-1);
    if (last && joinable(last, run)) last.text += run.text;
    else if (run.text !== '' || run.image) this.runs.push(run);
  }

  private styleOf(properties: Element | undefined): Partial<Run> {
    const named = this.walk.styles.character(child(properties, 'w:rStyle')?.attributes['w:val']);
    const flag = (name: string): boolean | undefined => onOff(child(properties, name));
    const style: Partial<Run> = {};
    if (flag('w:b') ?? named.bold) style.bold = true;
    if (flag('w:i') ?? named.italic) style.italic = true;
    if (flag('w:strike') ?? flag('w:dstrike')) style.strike = true;
    const underline = child(properties, 'w:u')?.attributes['w:val'];
    if (underline && underline !== 'none') style.underline = true;
    const vertical = child(properties, 'w:vertAlign')?.attributes['w:val'];
    if (vertical === 'superscript') style.vertical = 'super';
    if (vertical === 'subscript') style.vertical = 'sub';
    if (named.code) style.code = true;
    return style;
  }
}
const joinable = (a: Run, b: Run): boolean =>
  sameStyle(a, b) && ![a, b].some((run) => run.image || run.field || run.note !== undefined);

/** The elements of a section that refer to its margins (ECMA-376, part 1, 17.10). */
const marginKinds: Readonly<Record<string, Margin['kind']>> = {
  'w:headerReference': 'header',
  'w:footerReference': 'footer',
};

function pageField(code: string): 'page' | 'pages' | null {
  const name = /^\s*([A-Z]+)/i.exec(code)?.[1]?.toUpperCase();
  if (name === 'PAGE') return 'page';
  return name === 'NUMPAGES' || name === 'SECTIONPAGES' ? 'pages' : null;
}
function symbol(element: Element): string {
  const code = Number.parseInt(element.attributes['w:char'] ?? '', 16);
  if (!Number.isFinite(code)) return '';
  return code >= 0xf000 && code <= 0xf0ff ? '\u25aa' : String.fromCodePoint(Math.min(code, 0x10ffff));
}
function safeHref(relation: Relation | undefined): string | undefined {
  return relation?.external && /^(https?:|mailto:)/i.test(relation.target) ? relation.target : undefined;
}

function readTable(table: Element, walk: Walk): Block {
  const open = new Map<number, Cell>();
  const rows = elements(table)
    .filter((row) => row.name === 'w:tr')
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
  return { kind: 'table', rows };
}

/** A row's cells, also those inside content controls. */
function cellsOf(row: Element): Element[] {
  return elements(row).flatMap((each) => {
    if (each.name === 'w:tc') return [each];
    if (each.name === 'w:sdt') return cellsOf(child(each, 'w:sdtContent') ?? each);
    return [];
  });
}
