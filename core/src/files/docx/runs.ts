import { joinable, type Run, type Tracked } from '../reading.ts';
import { child, descendants, type Element, elements, text } from '../xml/xml.ts';
import { linearEquation } from './equations.ts';
import type { Relation } from './package.ts';
import { lookOf, onOff, type StyleSheet } from './styles.ts';
import { symbolSign } from './symbols.ts';

/** What reading a paragraph needs to know of the file, and what it notes while it goes. */
export interface InlineWalk {
  styles: StyleSheet;
  relations: ReadonlyMap<string, Relation>;
  /** Numbers given to notes, by kind and id, in the order they are met. */
  noteNumbers: Map<string, number>;
  /** Ids of comments in the order they are met. */
  comments: string[];
  /** What is met and not shown, with how often. */
  unshown: Map<string, number>;
  /** What tells a picture from another: a hash of its part. */
  pictureHash: (part: string) => string;
}

/** Where a run leads. */
type Link = Pick<Run, 'href' | 'target'>;

/** A field under way (ECMA-376 part 1, 17.16.18): its code, whether its result has begun, and been told. */
interface Field {
  code: string;
  inResult: boolean;
  told: boolean;
  form: Element | undefined;
}

/** Collects a paragraph's runs; page breaks and text boxes met on the way are kept beside. */
export class RunReader {
  readonly runs: Run[] = [];
  readonly boxes: Element[] = [];
  /** A page break that is asked for, before the text or after it; or where a page was last begun. */
  breakAt: 'start' | 'end' | 'drawn' | null = null;
  /** A page break stands right behind what was read. */
  private isAtBreak = false;
  private readonly fields: Field[] = [];
  /** The tracked change that what is read now came with. */
  private tracked: Tracked | undefined;

  constructor(
    private readonly walk: InlineWalk,
    private readonly base: Partial<Run>,
  ) {}

  read(parent: Element, link?: Link): void {
    for (const element of elements(parent)) {
      switch (element.name) {
        case 'w:r':
          this.readRun(element, link);
          break;
        case 'w:hyperlink':
          this.read(element, this.addressOf(element) ?? link);
          break;
        case 'w:fldSimple':
          this.readField(element, link);
          break;
        case 'w:sdt': {
          const content = child(element, 'w:sdtContent');
          if (content) this.read(content, link);
          break;
        }
        case 'w:ins':
        case 'w:moveTo':
          this.readTracked(element, link);
          break;
        case 'w:del':
        case 'w:moveFrom':
          this.gone(element);
          break;
        case 'w:smartTag':
        case 'w:customXml':
        case 'w:dir':
        case 'w:bdo':
          this.read(element, link);
          break;
        case 'm:oMath':
        case 'm:oMathPara':
          this.push({ text: linearEquation(element) });
          break;
        default:
          break;
      }
    }
  }

  /**
   * Where a link leads: an address that can be followed from a page, else a file or a bookmark in this
   * one.
   */
  private addressOf(link: Element): Link | undefined {
    const anchor = link.attributes['w:anchor'];
    const relation = this.walk.relations.get(link.attributes['r:id'] ?? '');
    const inside = anchor === undefined ? '' : `#${anchor}`;
    if (!relation?.external) return anchor === undefined ? undefined : { target: inside };
    const address = `${relation.target}${inside}`;
    return /^(https?:|mailto:)/i.test(address) ? { href: address } : { target: address };
  }

  private readField(element: Element, link?: Link): void {
    const field = pageField(element.attributes['w:instr'] ?? '');
    if (field) this.push({ text: text(element) || '1', field });
    else this.read(element, link);
  }

  private readRun(run: Element, link: Link | undefined): void {
    const properties = child(run, 'w:rPr');
    if (onOff(child(properties, 'w:vanish'))) return;
    const style = { ...this.base, ...this.styleOf(properties), ...link };
    const font = child(properties, 'w:rFonts')?.attributes['w:ascii'] ?? '';
    for (const element of elements(run)) {
      switch (element.name) {
        case 'w:t':
          this.pushText(inFont(text(element), font), style);
          break;
        case 'w:tab':
        case 'w:ptab':
          this.pushText('\t', style);
          break;
        case 'w:noBreakHyphen':
          this.pushText('\u2011', style);
          break;
        case 'w:softHyphen':
          this.pushText('\u00ad', style);
          break;
        case 'w:cr':
          this.pushText('\n', style);
          break;
        case 'w:sym':
          this.pushText(symbolOf(element), style);
          break;
        case 'w:br':
          if (element.attributes['w:type'] === 'page') this.markBreak();
          else this.pushText('\n', style);
          break;
        case 'w:lastRenderedPageBreak':
          if (this.runs.length === 0 && !this.breakAt) this.breakAt = 'drawn';
          break;
        case 'w:fldChar':
          this.fieldMark(element);
          break;
        case 'w:instrText':
          for (const field of this.fields.slice(-1)) field.code += text(element);
          break;
        case 'w:footnoteReference':
          this.note('footnote', element);
          break;
        case 'w:endnoteReference':
          this.note('endnote', element);
          break;
        case 'w:commentReference':
          this.comment(element);
          break;
        case 'w:drawing':
        case 'w:pict':
        case 'w:object':
          this.picture(element);
          break;
        case 'w:ruby':
          this.ruby(element, link);
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
    this.isAtBreak = this.breakAt === 'end';
  }

  /** Text goes on behind a page break inside its paragraph: the words on both sides are two. */
  private crossBreak(): void {
    if (this.isAtBreak) this.push({ ...this.base, text: '\n' });
    this.isAtBreak = false;
  }

  /** The text a phonetic guide stands over, with the guide behind it (ECMA-376 part 1, 17.3.3.25). */
  private ruby(element: Element, link: Link | undefined): void {
    const part = (name: string): void => {
      for (const run of elements(child(element, name), 'w:r')) this.readRun(run, link);
    };
    part('w:rubyBase');
    this.pushText('（', this.base);
    part('w:rt');
    this.pushText('）', this.base);
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
    const other = unshownIn(drawing);
    if (other) this.walk.unshown.set(other, (this.walk.unshown.get(other) ?? 0) + 1);
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
        hash: this.walk.pictureHash(relation.target),
      },
    });
  }

  private note(kind: string, element: Element): void {
    const key = `${kind}:${element.attributes['w:id'] ?? ''}`;
    const number = this.walk.noteNumbers.get(key) ?? this.walk.noteNumbers.size + 1;
    this.walk.noteNumbers.set(key, number);
    this.push({ text: `${number}`, note: number, vertical: 'super' });
  }

  private comment(element: Element): void {
    const id = element.attributes['w:id'] ?? '';
    const known = this.walk.comments.indexOf(id);
    if (known < 0) this.walk.comments.push(id);
    const comment = known < 0 ? this.walk.comments.length : known + 1;
    this.push({ text: '', comment });
  }

  private fieldMark(element: Element): void {
    const kind = element.attributes['w:fldCharType'];
    if (kind === 'begin') {
      this.fields.push({ code: '', inResult: false, told: false, form: child(element, 'w:ffData') });
      return;
    }
    const field = this.fields.at(-1);
    if (!field) return;
    if (kind === 'separate') field.inResult = true;
    if (kind !== 'end') return;
    this.fields.pop();
    const page = pageField(field.code);
    if (page && !field.told && this.isShown()) this.push({ text: '1', field: page });
    const chosen = formResult(field.form);
    if (chosen !== null && this.isShown()) this.push({ ...this.base, text: chosen });
  }

  /** Text inside a field is shown where it is the result of every field around it. */
  private isShown(): boolean {
    return this.fields.every(({ inResult }) => inResult);
  }

  private pushText(value: string, style: Partial<Run>): void {
    if (!this.isShown()) return;
    this.crossBreak();
    const field = this.fields.at(-1);
    const page = field ? pageField(field.code) : null;
    if (field && page) {
      if (!field.told) this.push({ ...style, text: value, field: page });
      field.told = true;
      return;
    }
    // A form field's own result is told at its end.
    if (field && formResult(field.form) !== null) return;
    this.push({ ...style, text: value });
  }

  /** What a tracked change puts in. */
  private readTracked(element: Element, link: Link | undefined): void {
    const outer = this.tracked;
    this.tracked = trackedBy(element);
    this.read(element, link);
    this.tracked = outer;
  }

  /** What a tracked change takes out: it is no text any more, and is told. */
  private gone(element: Element): void {
    const words = ['w:delText', 'w:t'].flatMap((name) => descendants(element, name).map(text)).join('');
    if (words !== '' && this.isShown())
      this.push({ ...this.base, text: '', tracked: { ...trackedBy(element), gone: words } });
  }

  private push(given: Run): void {
    const run = this.tracked && !given.tracked ? { ...given, tracked: this.tracked } : given;
    const last = this.runs.at(-1);
    if (last && joinable(last, run)) last.text += run.text;
    else if (run.text !== '' || run.image || run.tracked?.gone || run.comment !== undefined)
      this.runs.push(run);
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
    if (flag('w:caps')) style.caps = 'all';
    else if (flag('w:smallCaps')) style.caps = 'small';
    if (named.code) style.code = true;
    return { ...style, ...named.look, ...lookOf(properties) };
  }
}

/** Who tracked a change, and when (ECMA-376 part 1, 17.13.5). */
const trackedBy = ({ attributes }: Element): Tracked => ({
  by: attributes['w:author'] ?? '',
  at: attributes['w:date'] ?? null,
});

function pageField(code: string): 'page' | 'pages' | null {
  const name = /^\s*([A-Z]+)/i.exec(code)?.[1]?.toUpperCase();
  if (name === 'PAGE') return 'page';
  return name === 'NUMPAGES' || name === 'SECTIONPAGES' ? 'pages' : null;
}

/** What a form's check box or list shows (ECMA-376 part 1, 17.16.17); null where a field is neither. */
function formResult(form: Element | undefined): string | null {
  const box = child(form, 'w:checkBox');
  if (box) return (onOff(child(box, 'w:checked')) ?? onOff(child(box, 'w:default'))) ? '☒' : '☐';
  const list = child(form, 'w:ddList');
  if (!list) return null;
  const chosen = child(list, 'w:result') ?? child(list, 'w:default');
  return elements(list, 'w:listEntry')[Number(chosen?.attributes['w:val'] ?? 0)]?.attributes['w:val'] ?? '';
}

const symbolOf = (element: Element): string => {
  const code = Number.parseInt(element.attributes['w:char'] ?? '', 16);
  return Number.isFinite(code) ? symbolSign(element.attributes['w:font'] ?? '', code) : '';
};

/** Text typed in a font of pictures stands for its signs. */
const inFont = (words: string, font: string): string =>
  words.replace(/[\uf000-\uf0ff]/g, (sign) => symbolSign(font, sign.charCodeAt(0)));

/** Drawings that are not shown, by what they hold. */
function unshownIn(drawing: Element): string | null {
  if (drawing.name === 'w:object') return 'embedded object';
  if (descendants(drawing, 'c:chart').length > 0) return 'chart';
  if (descendants(drawing, 'dgm:relIds').length > 0) return 'diagram';
  const isShape =
    descendants(drawing, 'wps:wsp').length > 0 && descendants(drawing, 'w:txbxContent').length === 0;
  return isShape ? 'drawn shape' : null;
}
