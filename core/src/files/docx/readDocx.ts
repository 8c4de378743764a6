import { isRefusal, type Refusal, refuse } from '../../document/refusal.ts';
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
import { child, descendants, type Element, elements, parseXml, text } from '../xml/xml.ts';
import { listZip, readEntry, type ZipEntry } from '../zip/readZip.ts';
import { type ListCounter, type NumberingPart, readNumbering } from './lists.ts';
import { onOff, readStyles, type StyleSheet } from './styles.ts';

/** A word-processing package opened for reading. */
export interface DocxPackage {
  /** The bytes of a part, by its name without a leading slash; a refusal when it is missing or damaged. */
  part(name: string): Uint8Array | Refusal;
  names: string[];
}

/**
 * Opens a .docx and checks every part of it: all entries unfold within bounds with their right checksum.
 * @returns the package, or a refusal with code `unreadable-file`, `unfolds-too-large` or `not-a-docx`
 */
export function openDocx(bytes: Uint8Array): DocxPackage | Refusal {
  if (bytes.length === 0)
    return refuse('invalid', 'empty-file', 'The file is empty. Choose a file with content.');
  if (bytes[0] !== 0x50 || bytes[1] !== 0x4b) {
    return refuse(
      'invalid',
      'not-a-docx',
      'The file is named .docx but is not one. Give it its right ending, or save it as .docx.',
    );
  }
  const list = listZip(bytes);
  if (isRefusal(list)) return list;
  const entries = new Map<string, ZipEntry>(list.map((entry) => [entry.name, entry]));
  if (!entries.has('[Content_Types].xml') || !entries.has('word/document.xml')) {
    return refuse(
      'invalid',
      'not-a-docx',
      'The file is a zip archive but not a .docx: its main part is missing. Save it as .docx.',
    );
  }
  return {
    names: list.map((entry) => entry.name),
    part(name) {
      const entry = entries.get(name);
      if (!entry) return refuse('notFound', 'part-not-found', `The file has no part ${name}.`);
      return readEntry(bytes, entry);
    },
  };
}

/** Unfolds every part once, so that damage anywhere is found at check-in and not years later. */
export function verifyParts(pack: DocxPackage): Refusal | null {
  for (const name of pack.names) {
    const part = pack.part(name);
    if (isRefusal(part)) return part;
    if (/\.(xml|rels)$/i.test(name)) {
      const parsed = parsePart(name, part);
      if (isRefusal(parsed)) return parsed;
    }
  }
  return null;
}

/** Most bytes of XML in one part: some ten thousand pages of text. More would fill the memory as a tree. */
const mostXmlBytes = 32 << 20;

function parsePart(name: string, bytes: Uint8Array): Element | Refusal {
  if (bytes.length > mostXmlBytes) {
    return refuse(
      'invalid',
      'unfolds-too-large',
      `${name} in the file holds more text than a document may. It is not taken in.`,
      { part: name },
    );
  }
  return parseXml(new TextDecoder().decode(bytes), name);
}

interface Relation {
  type: string;
  target: string;
  external: boolean;
}

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
  const refusals: Refusal[] = [];
  const xml = (name: string): Element | undefined => {
    if (!pack.names.includes(name)) return undefined;
    const bytesOfPart = pack.part(name);
    const parsed = isRefusal(bytesOfPart) ? bytesOfPart : parsePart(name, bytesOfPart);
    if (!isRefusal(parsed)) return parsed;
    refusals.push(parsed);
    return undefined;
  };
  const styles = readStyles(xml('word/styles.xml'));
  const numbering: NumberingPart = readNumbering(xml('word/numbering.xml'));
  const walkFor = (part: string, noteNumbers: Map<string, number>): Walk => ({
    styles,
    lists: numbering.counter(),
    noteNumbers,
    relations: readRelations(xml(`word/_rels/${part}.rels`)),
  });

  const main = xml('word/document.xml');
  const body = child(main, 'w:body');
  const walk = walkFor('document.xml', new Map());
  const blocks = body ? readBlocks(body, walk) : [];

  const margins: Margin[] = [];
  const sections = body ? descendants(body, 'w:sectPr') : [];
  sections.forEach((section, index) => {
    for (const reference of elements(section)) {
      const kind = marginKinds[reference.name] ?? null;
      const target = walk.relations.get(reference.attributes['r:id'] ?? '')?.target;
      const root = kind && target ? xml(`word/${target}`) : undefined;
      if (!kind || !target || !root) continue;
      const pages = reference.attributes['w:type'];
      margins.push({
        kind,
        section: index + 1,
        pages: pages === 'first' || pages === 'even' ? pages : 'default',
        blocks: readBlocks(root, walkFor(target, new Map())),
      });
    }
  });

  const notes: Note[] = [];
  for (const kind of ['footnote', 'endnote'] as const) {
    const root = xml(`word/${kind}s.xml`);
    const noteWalk = walkFor(`${kind}s.xml`, new Map());
    for (const note of elements(root, `w:${kind}`)) {
      const number = walk.noteNumbers.get(`${kind}:${note.attributes['w:id'] ?? ''}`);
      if (number !== undefined) notes.push({ number, kind, blocks: readBlocks(note, noteWalk) });
    }
  }
  notes.sort((a, b) => a.number - b.number);
  return refusals[0] ?? boundReading({ format: 'docx', blocks, margins, notes });
}

function readRelations(root: Element | undefined): Map<string, Relation> {
  return new Map(
    elements(root, 'Relationship').map(({ attributes }) => [
      attributes['Id'] ?? '',
      {
        type: attributes['Type'] ?? '',
        target: (attributes['Target'] ?? '').replace(/^\/word\//, ''),
        external: attributes['TargetMode'] === 'External',
      },
    ]),
  );
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
        part: `word/${relation.target}`,
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
