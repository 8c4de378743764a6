import { child, descendants, type Element, elements, type Parsed } from '../files/xml/xml.ts';

/** Values by the key of their name; `keyOf` makes that of a name as it stands in a file. */
export interface Filling {
  valueOf: (name: string) => string | undefined;
  /** Told of the names of document properties that fields show, with what they now say. */
  shown: (name: string, value: string) => void;
}

/**
 * Fills the content controls, fields and bookmarks of a part of a .docx that are named for something to be
 * written (ECMA-376 part 1, 17.5.2, 17.16, 17.13.6). What they held goes; its first run's look stays.
 */
export const fillWord = ({ root }: Parsed, filling: Filling): void => new Filler(filling).fill(root);

/** What was taken out stays as it was. */
const left = new Set(['w:del', 'w:moveFrom', 'w:pPr', 'w:rPr', 'w:sdtPr', 'w:sectPr', 'w:tblPr', 'w:tcPr']);
/** Signs of the result of a field that its value takes the place of. */
const content = new Set([
  ...['w:t', 'w:tab', 'w:br', 'w:cr', 'w:noBreakHyphen', 'w:softHyphen', 'w:sym', 'w:drawing', 'w:pict'],
]);

/** A field that is open (ECMA-376 part 1, 17.16.18): its code until it is parted, then its result. */
interface OpenField {
  code: string;
  value: string | undefined;
  isParted: boolean;
  /** Whether its value is written. */
  isWritten: boolean;
}

class Filler {
  private readonly open: OpenField[] = [];

  constructor(private readonly filling: Filling) {}

  fill(root: Element): void {
    this.fillBookmarks(root);
    this.walk(root);
  }

  private walk(element: Element): void {
    for (const each of elements(element)) {
      if (left.has(each.name)) continue;
      if (each.name === 'w:r') this.run(each);
      else if (each.name === 'w:sdt' && this.control(each)) continue;
      else if (each.name === 'w:fldSimple' && this.simple(each)) continue;
      else this.walk(each);
    }
  }

  /** The outermost open field whose result is being written anew. */
  private get filled(): OpenField | undefined {
    return this.open.find(({ value, isParted }) => value !== undefined && isParted);
  }

  private run(run: Element): void {
    const kept: (Element | string)[] = [];
    for (const part of run.children) {
      if (typeof part === 'string' || this.keeps(part, kept)) kept.push(part);
    }
    run.children = kept;
  }

  /** Whether a part of a run stays as it is; what is to stand before it is put there. */
  private keeps(part: Element, before: (Element | string)[]): boolean {
    switch (part.name) {
      case 'w:fldChar':
        return this.fieldSign(part, before);
      case 'w:instrText':
        for (const field of this.open.slice(-1)) if (!field.isParted) field.code += textIn(part);
        return this.filled === undefined;
      case 'w:rPr':
      case 'w:lastRenderedPageBreak':
        return true;
      default: {
        const { filled } = this;
        if (!filled) {
          // What stands in a text box has fields of its own, in both branches of what programs may draw.
          for (const box of descendants(part, 'w:txbxContent')) new Filler(this.filling).fill(box);
          return true;
        }
        if (content.has(part.name) && !filled.isWritten) this.write(filled, before);
        return false;
      }
    }
  }

  private fieldSign(sign: Element, before: (Element | string)[]): boolean {
    const type = sign.attributes['w:fldCharType'];
    const { filled } = this;
    if (type === 'begin') {
      this.open.push({ code: '', value: undefined, isParted: false, isWritten: false });
      return filled === undefined;
    }
    const field = this.open.at(-1);
    if (!field) return true;
    if (type === 'separate') {
      field.isParted = true;
      if (filled === undefined) field.value = this.valueOf(field.code);
      return filled === undefined;
    }
    if (type !== 'end') return filled === undefined;
    this.open.pop();
    if (filled !== undefined && filled !== field) return false;
    if (!field.isParted) {
      field.value = this.valueOf(field.code);
      if (field.value !== undefined) before.push(element('w:fldChar', { 'w:fldCharType': 'separate' }));
    }
    if (field.value !== undefined && !field.isWritten) this.write(field, before);
    return true;
  }

  private write(field: OpenField, before: (Element | string)[]): void {
    field.isWritten = true;
    before.push(textElement(field.value ?? ''));
  }

  /** What a field shows: a document property, or a bookmark (ECMA-376 part 1, 17.16.5.18 and 17.16.5.51). */
  private valueOf(code: string): string | undefined {
    const [, kind = '', quoted, bare] =
      /^\s*(DOCPROPERTY|REF)\s+(?:["“]([^"”]*)["”]|(\S+))/i.exec(code) ?? [];
    const name = quoted ?? bare ?? '';
    const value = this.filling.valueOf(name);
    if (value !== undefined && kind.toUpperCase() === 'DOCPROPERTY') this.filling.shown(name, value);
    return value;
  }

  private simple(field: Element): boolean {
    const value = this.valueOf(field.attributes['w:instr'] ?? '');
    if (value === undefined) return false;
    field.children = [runLike(descendants(field, 'w:r')[0], value)];
    return true;
  }

  /** Fills a content control by its tag, else its title (ECMA-376 part 1, 17.5.2.42 and 17.5.2.1). */
  private control(control: Element): boolean {
    const properties = child(control, 'w:sdtPr');
    const held = child(control, 'w:sdtContent');
    const named = ['w:tag', 'w:alias'].map((name) => child(properties, name)?.attributes['w:val']);
    const value = named.map((name) => this.filling.valueOf(name ?? '')).find((one) => one !== undefined);
    if (value === undefined || !held || !properties) return false;
    const isHint = child(properties, 'w:showingPlcHdr') !== undefined;
    // A bound control would show what it is bound to, again (17.5.2.6).
    const gone = ['w:showingPlcHdr', 'w:dataBinding', 'w15:dataBinding'];
    properties.children = properties.children.filter(
      (each) => typeof each === 'string' || !gone.includes(each.name),
    );
    for (const date of elements(properties, 'w:date')) delete date.attributes['w:fullDate'];
    const like = isHint ? child(properties, 'w:rPr') : undefined;
    const written = (first: Element | undefined): Element =>
      isHint ? runOf(like, value) : runLike(first, value);
    const paragraphs = descendants(held, 'w:p');
    const [paragraph] = paragraphs;
    if (!paragraph) held.children = [written(descendants(held, 'w:r')[0])];
    else {
      const run = written(descendants(paragraph, 'w:r')[0]);
      for (const one of paragraphs) one.children = one.children.filter(isProperties);
      paragraph.children.push(run);
      // Cells and rows keep their number; paragraphs beside the first would be empty lines.
      held.children = held.children.filter(
        (each) => typeof each === 'string' || each.name !== 'w:p' || each === paragraph,
      );
    }
    return true;
  }

  /**
   * Writes between the ends of a bookmark: in a paragraph, or in a link, an insertion or a control of it;
   * where it goes over several paragraphs, in the first of them. One of columns of a table is no text
   * (17.13.6.2).
   */
  private fillBookmarks(root: Element): void {
    for (const start of within(root, 'w:bookmarkStart')) {
      const value = this.filling.valueOf(start.attributes['w:name'] ?? '');
      if (value === undefined || start.attributes['w:colFirst'] !== undefined) continue;
      const taken = new Taken(start);
      taken.from(root);
      if (!taken.isClosed) continue;
      taken.remove();
      const { parent } = taken;
      const run = runLike(taken.runs[0]?.run ?? within(parent, 'w:r')[0], value);
      parent.children.splice(parent.children.indexOf(start) + 1, 0, run);
    }
  }
}

/** Elements of a name, not those within what runs hold, nor in what was taken out. */
function within(parent: Element, name: string): Element[] {
  return elements(parent).flatMap((each) => {
    if (each.name === name) return [each];
    return each.name === 'w:r' || left.has(each.name) ? [] : within(each, name);
  });
}

/** The runs between the ends of a bookmark, in the order of the text. */
class Taken {
  readonly runs: { run: Element; parent: Element }[] = [];
  /** Paragraphs between those in which it begins and ends. */
  private readonly whole: { run: Element; parent: Element }[] = [];
  /** Where the bookmark begins. */
  parent: Element;
  isClosed = false;
  private isOpen = false;

  constructor(private readonly start: Element) {
    this.parent = start;
  }

  from(parent: Element): void {
    for (const each of elements(parent)) {
      if (this.isClosed) return;
      if (each === this.start) {
        this.isOpen = true;
        this.parent = parent;
      } else if (each.name === 'w:bookmarkEnd')
        this.isClosed = this.isOpen && each.attributes['w:id'] === this.start.attributes['w:id'];
      else if (each.name === 'w:r') {
        if (this.isOpen) this.runs.push({ run: each, parent });
      } else if (!left.has(each.name)) {
        const wasOpen = this.isOpen;
        this.from(each);
        if (wasOpen && !this.isClosed && each.name === 'w:p') this.whole.push({ run: each, parent });
      }
    }
  }

  remove(): void {
    for (const { run, parent } of [...this.runs, ...this.whole])
      parent.children = parent.children.filter((each) => each !== run);
  }
}

const isProperties = (each: Element | string): boolean => typeof each !== 'string' && each.name === 'w:pPr';
const textIn = ({ children }: Element): string =>
  children.filter((each) => typeof each === 'string').join('');
const element = (
  name: string,
  attributes: Record<string, string>,
  children: (Element | string)[] = [],
): Element => ({ name, attributes, children });
const textElement = (value: string): Element => element('w:t', { 'xml:space': 'preserve' }, [value]);
const runOf = (properties: Element | undefined, value: string): Element =>
  element('w:r', {}, [...(properties ? [properties] : []), textElement(value)]);
const runLike = (run: Element | undefined, value: string): Element => runOf(child(run, 'w:rPr'), value);
