import { isRefusal, refuse, type Refusal } from '../../document/refusal.ts';
import { type DocxPackage, packageOfParts, type Relation, relationsName } from '../../files/docx/package.ts';
import { child, descendants, type Element, elements, text } from '../../files/xml/xml.ts';
import { crc32 } from '../../files/zip/readZip.ts';
import { readAll } from '../../files/zip/writeZip.ts';

/** The three files of a merge: as it was taken, as it is now, and the copy. */
export type Side = 'base' | 'present' | 'mine';
export type Sides<T> = Readonly<Record<Side, T>>;

/** What stands beside the text and is named in it by an id: foot- and endnotes, comments. */
export const asides = ['footnote', 'endnote', 'comment'] as const;
export type Aside = (typeof asides)[number];

/** Elements that name something beside the text, and what. */
const asideReferences: Readonly<Record<string, Aside>> = {
  'w:footnoteReference': 'footnote',
  'w:endnoteReference': 'endnote',
  'w:commentReference': 'comment',
  'w:commentRangeStart': 'comment',
  'w:commentRangeEnd': 'comment',
};
/** What an element names beside the text; undefined where it names nothing there. */
export const asideNamed = (element: Element): Aside | undefined => asideReferences[element.name];

/**
 * Elements that say nothing of what is written: where a program checked, or broke a page when it last drew
 * it.
 */
const unsaid = new Set(['w:proofErr', 'w:lastRenderedPageBreak', 'w:bookmarkEnd']);
/** Attributes that number things inside one file (sittings, paragraphs, annotations). */
const numbering = /^(?:w:rsid\w*|w14:paraId|w14:textId|wp14:\w+|xml:space)$/;
/** Elements whose `w:id` or `id` only tells them apart. */
const numbered =
  /^(?:w:bookmarkStart|w:bookmarkEnd|w:ins|w:del|w:moveFrom|w:moveTo|w:\w+Change|wp:docPr|pic:cNvPr|w:footnote|w:endnote|w:comment)$/;

/** One of the files of a merge: its parts, its text, and what the text names beside it. */
export class Source {
  readonly body: Element;
  private readonly values = new Map<string, string>();
  private readonly aside = new Map<Aside, { part: string; byId: Map<string, Element> }>();
  private readonly lists: Map<string, Element>;
  private readonly abstracts: Map<string, Element>;
  readonly styles: Map<string, Element>;
  /** Ids of the bookmarks in the text, by name. */
  readonly bookmarks: Map<string, string>;

  private constructor(
    readonly parts: Map<string, Uint8Array>,
    readonly pack: DocxPackage,
    body: Element,
  ) {
    this.body = { ...body, children: withMarksInside(elements(body)) };
    this.bookmarks = new Map(
      descendants(body, 'w:bookmarkStart').map(({ attributes }) => [
        attributes['w:name'] ?? '',
        attributes['w:id'] ?? '',
      ]),
    );
    for (const kind of asides) {
      const part = pack.related(`${kind}s`);
      if (part === undefined) continue;
      const byId = new Map(
        elements(this.root(part), `w:${kind}`).map((each) => [each.attributes['w:id'] ?? '', each]),
      );
      this.aside.set(kind, { part, byId });
    }
    const lists = this.rootOf('numbering');
    this.lists = byAttribute(elements(lists, 'w:num'), 'w:numId');
    this.abstracts = byAttribute(elements(lists, 'w:abstractNum'), 'w:abstractNumId');
    this.styles = byAttribute(elements(this.rootOf('styles'), 'w:style'), 'w:styleId');
  }

  /** Opens a file for merging; refused is one that has no text, or a damaged part. */
  static open(bytes: Uint8Array): Source | Refusal {
    const parts = readAll(bytes);
    if (isRefusal(parts)) return parts;
    const pack = packageOfParts(parts);
    if (isRefusal(pack)) return pack;
    for (const name of parts.keys()) {
      const parsed = /\.(xml|rels)$/i.test(name) ? pack.xml(name) : undefined;
      if (parsed && isRefusal(parsed)) return parsed;
    }
    const main = pack.xml(pack.main);
    const body = main && !isRefusal(main) ? child(main.root, 'w:body') : undefined;
    if (!body)
      return refuse('invalid', 'not-a-docx', 'One of the files has no body of text that could be merged.');
    return new Source(parts, pack, body);
  }

  /** Properties of the sections in order, the last one's at the end. */
  get sections(): Element[] {
    return descendants(this.body, 'w:sectPr');
  }

  /** A part's root element. */
  root(name: string): Element | undefined {
    const parsed = this.pack.xml(name);
    return parsed && !isRefusal(parsed) ? parsed.root : undefined;
  }
  /** The root of the part that the main one is related to by a type. */
  rootOf(type: string): Element | undefined {
    const name = this.pack.related(type);
    return name === undefined ? undefined : this.root(name);
  }

  /** A note or comment by its id, with the part it stands in. */
  asideOf(kind: Aside, id: string): { part: string; element: Element } | undefined {
    const found = this.aside.get(kind);
    const element = found?.byId.get(id);
    return found && element && { part: found.part, element };
  }
  /** All notes of a kind, or all comments, by id. */
  asidesOf(kind: Aside): ReadonlyMap<string, Element> {
    return this.aside.get(kind)?.byId ?? new Map<string, Element>();
  }

  /**
   * How a list is numbered: the definition its items name, and what that is of; undefined where there is
   * none.
   */
  listOf(id: string): { list: Element; abstract: Element } | undefined {
    const list = this.lists.get(id);
    const abstract = this.abstracts.get(child(list, 'w:abstractNumId')?.attributes['w:val'] ?? '');
    return list && abstract && { list, abstract };
  }
  get listIds(): string[] {
    return [...this.lists.keys()];
  }
  /** What tells one list's numbering from another's. */
  listValue(id: string): string {
    const found = this.listOf(id);
    if (!found) return '';
    const own = elements(found.list, 'w:lvlOverride').map((each) => this.value(each, this.pack.main));
    const levels = elements(found.abstract, 'w:lvl').map((each) => this.value(each, this.pack.main));
    return [...levels, ...own].join('');
  }

  relation(part: string, id: string): Relation | undefined {
    return this.pack.relations(part).get(id);
  }
  /** The full type of a relation. */
  typeOf(part: string, id: string): string {
    const found = elements(this.root(relationsName(part))).find(({ attributes }) => attributes['Id'] === id);
    return found?.attributes['Type'] ?? '';
  }
  /** The full type of the main part's relation to a part. */
  typeTo(target: string): string {
    const found = [...this.pack.relations(this.pack.main).values()].find((each) => each.target === target);
    return found ? this.typeOf(this.pack.main, found.id) : '';
  }
  /** What the package says a part is (ECMA-376 part 2, 6.2.3). */
  contentTypeOf(part: string): string {
    const types = elements(this.root('[Content_Types].xml'));
    const own = types.find(
      ({ attributes }) => attributes['PartName']?.toLowerCase() === `/${part}`.toLowerCase(),
    );
    const ending = /\.([^./]*)$/.exec(part)?.[1]?.toLowerCase();
    const byEnding = types.find(({ attributes }) => attributes['Extension']?.toLowerCase() === ending);
    return (own ?? byEnding)?.attributes['ContentType'] ?? '';
  }

  /** Namespaces of the text, by prefix; and which of them may be passed over by who does not know them. */
  get namespaces(): Map<string, string> {
    const main = this.pack.xml(this.pack.main);
    return main && !isRefusal(main) ? main.namespaces : new Map<string, string>();
  }
  get ignorable(): Set<string> {
    const root = this.root(this.pack.main);
    return new Set((root?.attributes['mc:Ignorable'] ?? '').split(' ').filter(Boolean));
  }

  /**
   * What an element says, so that two are equal where they say the same: ids are replaced by what they name
   * (the words of a note, the bytes of a picture, the address of a link), and what only numbers things inside
   * one file is left out. Runs of one formatting are one.
   */
  value(element: Element, part: string, inAside = false): string {
    if (unsaid.has(element.name) || element.attributes['w:name'] === '_GoBack') return '';
    const kind = asideNamed(element);
    if (kind && !inAside)
      return `<${element.name} ${this.asideValue(kind, element.attributes['w:id'] ?? '')}>`;
    const attributes = Object.entries(element.attributes)
      .filter(([name]) => !numbering.test(name) && !(/^(?:w:)?id$/.test(name) && numbered.test(element.name)))
      .map(([name, value]) => ` ${name}="${this.attributeValue(element, name, value, part)}"`)
      .sort()
      .join('');
    return `<${element.name}${attributes}>${this.childrenValue(element, part, inAside)}</>`;
  }

  private childrenValue(element: Element, part: string, inAside: boolean): string {
    let formatting = '';
    return element.children
      .map((each) => {
        if (typeof each === 'string') return inWords.has(element.name) ? escape(each) : each.trim();
        if (each.name !== 'w:r') {
          const value = this.value(each, part, inAside);
          if (value !== '') formatting = '';
          return value;
        }
        const properties = child(each, 'w:rPr');
        const own = `{${properties ? this.value(properties, part) : ''}}`;
        const inner = elements(each)
          .filter((inRun) => inRun !== properties)
          .map((inRun) => (inRun.name === 'w:t' ? escape(text(inRun)) : this.value(inRun, part, inAside)))
          .join('');
        if (inner === '') return '';
        const before = own === formatting ? '' : own;
        formatting = own;
        return before + inner;
      })
      .join('');
  }

  private attributeValue(element: Element, name: string, value: string, part: string): string {
    if (name.startsWith('r:')) return this.relationValue(part, value);
    if (element.name === 'w:numId' && name === 'w:val' && value !== '0') return this.listValue(value);
    return value;
  }

  /** What a relation leads to: an address, or the bytes of a part. */
  relationValue(part: string, id: string): string {
    const relation = this.relation(part, id);
    if (!relation) return id;
    if (relation.external) return relation.target;
    return this.known(`part ${relation.target}`, () => {
      const bytes = this.parts.get(relation.target);
      return bytes ? `${relation.type} ${bytes.length} ${crc32(bytes)}` : relation.target;
    });
  }

  asideValue(kind: Aside, id: string): string {
    return this.known(`${kind} ${id}`, () => {
      const found = this.asideOf(kind, id);
      return found ? this.value(found.element, found.part, true) : '';
    });
  }

  private known(key: string, make: () => string): string {
    const found = this.values.get(key);
    if (found !== undefined) return found;
    // A note that names itself would never end.
    this.values.set(key, '');
    const made = make();
    this.values.set(key, made);
    return made;
  }
}

/** Marks may stand between blocks as well as in them: here they stand in the paragraph beside them. */
function withMarksInside(blocks: readonly Element[]): Element[] {
  const placed: Element[] = [];
  let waiting: Element[] = [];
  for (const block of blocks) {
    const last = placed.at(-1);
    if (marks.has(block.name)) {
      if (/End$/.test(block.name) && last?.name === 'w:p' && waiting.length === 0)
        placed[placed.length - 1] = { ...last, children: [...last.children, block] };
      else waiting.push(block);
      continue;
    }
    if (block.name === 'w:p' && waiting.length > 0) {
      const properties = elements(block, 'w:pPr');
      const rest = block.children.filter((each) => each !== properties[0]);
      placed.push({ ...block, children: [...properties, ...waiting, ...rest] });
    } else placed.push(...waiting, block);
    waiting = [];
  }
  return [...placed, ...waiting];
}
const marks = new Set(['w:bookmarkStart', 'w:bookmarkEnd', 'w:commentRangeStart', 'w:commentRangeEnd']);

/** Elements whose text is words, white space included. */
const inWords = new Set(['w:t', 'w:instrText', 'w:delText', 'm:t', 'wp:posOffset']);
const escape = (words: string): string => words.replace(/[<&{]/g, (sign) => `&${sign}`);

const byAttribute = (of: readonly Element[], name: string): Map<string, Element> =>
  new Map(of.map((each) => [each.attributes[name] ?? '', each]));
