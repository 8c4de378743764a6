import { isRefusal } from '../../document/refusal.ts';
import { partNamed, type Relation, relationsName } from '../../files/docx/package.ts';
import { usualNamespaces } from '../../files/xml/names.ts';
import {
  child,
  decodeXml,
  descendants,
  type Element,
  elements,
  type Parsed,
  parseXml,
  writeXml,
} from '../../files/xml/xml.ts';
import { type Aside, asideNamed, asides, type Source } from './source.ts';

/** A side that something is brought from. */
export type Origin = 'base' | 'mine';

/** Elements whose ids tell them apart all over a document, by the kind of thing they count. */
const counted: Readonly<Record<string, 'mark' | 'drawing'>> = {
  'w:bookmarkStart': 'mark',
  'w:bookmarkEnd': 'mark',
  'w:ins': 'mark',
  'w:del': 'mark',
  'w:moveFrom': 'mark',
  'w:moveTo': 'mark',
  'wp:docPr': 'drawing',
};
/** Elements whose value is the id of a style. */
const namesStyle = new Set(['w:pStyle', 'w:rStyle', 'w:tblStyle', 'w:basedOn', 'w:next', 'w:link']);

/** Where an element is brought from and to. */
interface Way {
  origin: Origin;
  from: string;
  to: string;
}

/**
 * The package a merge is carried by: the present one, to which blocks of the other files are brought with
 * everything they name (pictures, links, notes, comments, lists, styles), under names of its own.
 */
export class Carrier {
  private readonly parts: Map<string, Uint8Array>;
  private readonly trees = new Map<string, Parsed>();
  private readonly changed = new Set<string>();
  /** What something of another file is called here. */
  private readonly ids = new Map<string, string>();
  private readonly highestIds = new Map<'mark' | 'drawing', number>();

  constructor(
    private readonly present: Source,
    private readonly others: Readonly<Record<Origin, Source>>,
  ) {
    this.parts = new Map(present.parts);
  }

  /** Two paragraphs that read the same: list and style of the one are those of the other. */
  learn(origin: Origin, theirs: Element, own: Element): void {
    const [a, b] = [theirs, own].map((each) => child(each, 'w:pPr'));
    const listOf = (properties: Element | undefined) => child(child(properties, 'w:numPr'), 'w:numId');
    const pairs = [
      ['style', child(a, 'w:pStyle'), child(b, 'w:pStyle')],
      ['list', listOf(a), listOf(b)],
    ] as const;
    for (const [kind, from, to] of pairs) {
      const [id, here] = [from?.attributes['w:val'], to?.attributes['w:val']];
      if (id !== undefined && here !== undefined) this.ids.set(`${origin} ${kind} ${id}`, here);
    }
  }

  /** An element of another file made ready to stand in a part of this one. */
  bring(element: Element, way: Way): Element {
    const attributes: Record<string, string> = {};
    for (const [name, value] of Object.entries(element.attributes)) {
      if (name !== 'w14:paraId' && name !== 'w14:textId')
        attributes[name] = this.attribute(element, { name, value }, way);
    }
    // A content control without an id gets one of its own when it is opened.
    const stays = (each: Element): boolean => !(element.name === 'w:sdtPr' && each.name === 'w:id');
    const children = element.children.flatMap((each): (Element | string)[] => {
      if (typeof each === 'string') return [each];
      return stays(each) ? [this.bring(each, way)] : [];
    });
    return { name: element.name, attributes, children };
  }

  private attribute(element: Element, { name, value }: { name: string; value: string }, way: Way): string {
    if (name.startsWith('r:')) return this.relation(value, way);
    const kind = asideNamed(element);
    if (kind && name === 'w:id') return this.aside(kind, value, way.origin);
    const counting = counted[element.name];
    if (counting && (name === 'w:id' || name === 'id')) return this.count(counting, element, way.origin);
    if (name !== 'w:val') return value;
    if (element.name === 'w:numId') return value === '0' ? value : this.list(value, way.origin);
    return namesStyle.has(element.name) ? this.style(value, way.origin) : value;
  }

  /**
   * What is known under a key, or is chosen now; then it is made, known already, since it may name itself.
   */
  private once(key: string, choose: () => string, make?: (id: string) => void): string {
    const known = this.ids.get(key);
    if (known !== undefined) return known;
    const id = choose();
    this.ids.set(key, id);
    make?.(id);
    return id;
  }

  private relation(id: string, { origin, from, to }: Way): string {
    const source = this.others[origin];
    const relation = source.relation(from, id);
    if (!relation) return id;
    return this.once(`${origin} relation ${from} ${id} ${to}`, () => {
      const target = relation.external ? relation.target : this.copyPart(origin, relation.target);
      return this.relate(to, { ...relation, target }, source.typeOf(from, id));
    });
  }

  /** Relates a part to a target, by a relation there is where there is one; answers its id. */
  private relate(part: string, wanted: Pick<Relation, 'target' | 'external'>, type: string): string {
    const root = this.relationsOf(part);
    const alike = elements(root).find(
      ({ attributes: { Type, Target = '', TargetMode } }) =>
        Type === type &&
        (TargetMode === 'External') === wanted.external &&
        (wanted.external ? Target : partNamed(Target, part)) === wanted.target,
    );
    if (alike) return alike.attributes['Id'] ?? '';
    const used = new Set(elements(root).map(({ attributes }) => attributes['Id']));
    let count = used.size + 1;
    while (used.has(`rId${count}`)) count += 1;
    root.children.push(relationship(`rId${count}`, type, part, wanted));
    return `rId${count}`;
  }

  /** Copies a part with all it is related to under a name that is free; answers the name. */
  private copyPart(origin: Origin, name: string): string {
    const source = this.others[origin];
    const bytes = source.parts.get(name);
    if (!bytes) return name;
    return this.once(
      `${origin} part ${name}`,
      () => (this.holdsAlready(source, name, bytes) ? name : this.freeName(name)),
      (copy) => {
        if (this.parts.has(copy)) return;
        this.parts.set(copy, bytes);
        this.declareType(copy, source.contentTypeOf(name));
        const relations = source.pack.relations(name);
        if (relations.size === 0) return;
        const root = this.relationsOf(copy);
        for (const { id, target, external } of relations.values()) {
          const to = external ? target : this.copyPart(origin, target);
          root.children.push(relationship(id, source.typeOf(name, id), copy, { target: to, external }));
        }
      },
    );
  }

  /** Whether the present file has this part under this name, and it leads to nothing further. */
  private holdsAlready(source: Source, name: string, bytes: Uint8Array): boolean {
    const own = this.present.parts.get(name);
    return source.pack.relations(name).size === 0 && own !== undefined && sameBytes(own, bytes);
  }

  private freeName(name: string): string {
    const [, stem = name, ending = ''] = /^(.*?)(\.[^./]*)?$/.exec(name) ?? [];
    const names = new Set([...this.parts.keys()].map((each) => each.toLowerCase()));
    for (let count = 1; ; count += 1) {
      const free = `${stem}-${count}${ending}`;
      if (!names.has(free.toLowerCase())) return free;
    }
  }

  private declareType(part: string, type: string): void {
    const ending = /\.([^./]*)$/.exec(part)?.[1]?.toLowerCase() ?? '';
    const { root } = this.change('[Content_Types].xml');
    const byEnding = elements(root, 'Default').find(
      ({ attributes }) => attributes['Extension']?.toLowerCase() === ending,
    );
    if (type === '' || byEnding?.attributes['ContentType'] === type) return;
    const attributes = { PartName: `/${part}`, ContentType: type };
    root.children.push({ name: 'Override', attributes, children: [] });
  }

  /** A note or comment of another file, copied beside those here; answers its id. */
  private aside(kind: Aside, id: string, origin: Origin): string {
    const source = this.others[origin];
    const found = source.asideOf(kind, id);
    if (!found) return id;
    const part = this.partFor(`${kind}s`, source);
    const { root } = this.change(part);
    return this.once(
      `${origin} ${kind} ${id}`,
      () => `${highest(elements(root, `w:${kind}`), 'w:id') + 1}`,
      (own) => {
        // Its place is taken before what it holds is brought, so that another gets the next id.
        const place: Element = { name: found.element.name, attributes: { 'w:id': own }, children: [] };
        root.children.push(place);
        const way = { origin, from: found.part, to: part };
        const { attributes, children } = this.bring(found.element, way);
        Object.assign(place, { attributes: { ...attributes, 'w:id': own }, children });
      },
    );
  }

  /**
   * The part that the main one is related to by a type; where there is none, one is made as another file has
   * it, without its content.
   */
  private partFor(type: string, source: Source): string {
    const own = this.present.pack.related(type);
    if (own !== undefined) return own;
    const name = source.pack.related(type) ?? '';
    return this.once(
      `made ${type}`,
      () => (this.parts.has(name) ? this.freeName(name) : name),
      (part) => {
        const given = source.pack.xml(name);
        if (!given || isRefusal(given)) throw new Error(`${name} was read, and cannot be any more`);
        // What separates notes from the text belongs to the part, not to a note.
        const kept = elements(given.root).filter(({ attributes }) => attributes['w:type'] !== undefined);
        const root = { ...given.root, children: kept.map((each) => structuredClone(each)) };
        this.parts.set(part, new Uint8Array());
        this.trees.set(part, { root, namespaces: new Map(given.namespaces) });
        this.changed.add(part);
        this.declareType(part, source.contentTypeOf(name));
        this.relate(this.present.pack.main, { target: part, external: false }, source.typeTo(name));
      },
    );
  }

  /** The list here that another file's list is, or one made like it; answers its id. */
  private list(id: string, origin: Origin): string {
    const source = this.others[origin];
    if (!source.listOf(id)) return id;
    return this.once(
      `${origin} list ${id}`,
      () => {
        const value = source.listValue(id);
        const alike = [id, ...this.present.listIds].find((own) => this.present.listValue(own) === value);
        const { root } = this.change(this.partFor('numbering', source));
        return alike ?? `${highest(elements(root, 'w:num'), 'w:numId') + 1}`;
      },
      (own) => {
        if (!this.present.listOf(own)) this.makeList(own, id, origin);
      },
    );
  }

  private makeList(own: string, id: string, origin: Origin): void {
    const source = this.others[origin];
    const found = source.listOf(id);
    if (!found) return;
    const to = this.partFor('numbering', source);
    const { root } = this.change(to);
    const way = { origin, from: source.pack.related('numbering') ?? '', to };
    const abstractId = `${highest(elements(root, 'w:abstractNum'), 'w:abstractNumId') + 1}`;
    const abstract = this.bring(found.abstract, way);
    abstract.attributes['w:abstractNumId'] = abstractId;
    abstract.children = abstract.children.filter(
      (each) => typeof each === 'string' || !ofOneList.has(each.name),
    );
    const list = this.bring(found.list, way);
    list.attributes['w:numId'] = own;
    const named = child(list, 'w:abstractNumId');
    if (named) named.attributes['w:val'] = abstractId;
    // Definitions stand before the lists made of them (ECMA-376 part 1, 17.9.16).
    const isList = (each: Element | string): boolean => typeof each !== 'string' && each.name === 'w:num';
    const first = root.children.findIndex(isList);
    root.children.splice(first < 0 ? root.children.length : first, 0, abstract);
    const last = root.children.findLastIndex(isList);
    root.children.splice(last < 0 ? root.children.length : last + 1, 0, list);
  }

  /**
   * The style here that another file's style is (by id and name, else by name), or one copied; answers its
   * id.
   */
  private style(id: string, origin: Origin): string {
    const source = this.others[origin];
    const theirs = source.styles.get(id);
    const part = this.present.pack.related('styles');
    if (!theirs || part === undefined) return id;
    const name = styleName(theirs);
    return this.once(
      `${origin} style ${id}`,
      () => {
        const same = this.present.styles.get(id);
        if (same && styleName(same) === name) return id;
        const named = [...this.present.styles].find(([, each]) => styleName(each) === name)?.[0];
        if (named !== undefined) return named;
        const used = new Set(
          elements(this.tree(part).root, 'w:style').map((each) => each.attributes['w:styleId']),
        );
        let free = id;
        for (let count = 1; used.has(free); count += 1) free = `${id}${count}`;
        return free;
      },
      (own) => {
        if (this.present.styles.has(own)) return;
        const copy = this.bring(theirs, { origin, from: source.pack.related('styles') ?? '', to: part });
        copy.attributes['w:styleId'] = own;
        delete copy.attributes['w:default'];
        this.change(part).root.children.push(copy);
      },
    );
  }

  /** Takes over how another file says a style of the present one looks. */
  takeStyle(id: string, origin: Origin): void {
    const source = this.others[origin];
    const part = this.present.pack.related('styles');
    const theirs = source.styles.get(id);
    if (part === undefined || !theirs) return;
    const { root } = this.change(part);
    const at = root.children.findIndex(
      (each) => typeof each !== 'string' && each.name === 'w:style' && each.attributes['w:styleId'] === id,
    );
    const way = { origin, from: source.pack.related('styles') ?? '', to: part };
    if (at >= 0) root.children[at] = this.bring(theirs, way);
  }

  /** Puts another content into a part. */
  takePart(name: string, bytes: Uint8Array): void {
    this.parts.set(name, bytes);
  }

  /** A relation of the main part to a copy of another file's part; answers its id. */
  relateCopy(origin: Origin, id: string): string {
    const main = this.others[origin].pack.main;
    return this.relation(id, { origin, from: main, to: this.present.pack.main });
  }

  /** An id that tells things of a kind apart; a bookmark of a name there is keeps its id. */
  private count(kind: 'mark' | 'drawing', element: Element, origin: Origin): string {
    if (kind === 'drawing') return this.next(kind);
    return this.once(`${origin} mark ${element.attributes['w:id'] ?? ''}`, () => {
      const name = element.attributes['w:name'];
      return (name === undefined ? undefined : this.present.bookmarks.get(name)) ?? this.next(kind);
    });
  }
  private next(kind: 'mark' | 'drawing'): string {
    const before = this.highestIds.get(kind) ?? this.highestOf(kind);
    this.highestIds.set(kind, before + 1);
    return `${before + 1}`;
  }
  private highestOf(kind: 'mark' | 'drawing'): number {
    const names = Object.keys(counted).filter((name) => counted[name] === kind);
    const roots = [...this.present.parts.keys()]
      .filter((part) => /\.xml$/i.test(part))
      .flatMap((part) => this.present.root(part) ?? []);
    const found = roots.flatMap((root) => names.flatMap((name) => descendants(root, name)));
    return highest(found, kind === 'drawing' ? 'id' : 'w:id');
  }

  /** A part's root that is about to be changed. */
  rootToChange(part: string): Element {
    return this.change(part).root;
  }

  /** Puts another root in a part's place. */
  setRoot(part: string, root: Element): void {
    this.change(part).root = root;
  }

  private change(part: string, made: Parsed | null = null): Parsed {
    this.changed.add(part);
    return this.tree(part, made);
  }

  private tree(part: string, made: Parsed | null = null): Parsed {
    const known = this.trees.get(part);
    if (known) return known;
    const own = this.present.pack.xml(part);
    const bytes = this.parts.get(part);
    const given = own ?? (bytes && parseXml(decodeXml(bytes), part)) ?? made;
    if (!given || isRefusal(given)) throw new Error(`${part} was to be read and cannot be`);
    const found = given === own ? structuredClone(given) : given;
    this.trees.set(part, found);
    return found;
  }
  private relationsOf(part: string): Element {
    const root = { name: 'Relationships', attributes: {}, children: [] };
    const made = { root, namespaces: new Map([['', relationsNamespace]]) };
    return this.change(relationsName(part), made).root;
  }

  /**
   * The package's parts, those that changed written anew, without notes and comments nobody names any
   * more.
   */
  finish(): Map<string, Uint8Array> {
    this.dropUnnamed();
    const parts = new Map(this.parts);
    for (const name of this.changed) {
      const parsed = this.tree(name);
      this.declareNames(parsed);
      parts.set(name, writeXml(parsed));
    }
    return parts;
  }

  /** Drops notes and comments that only blocks named which did not stay. */
  private dropUnnamed(): void {
    const partOf = (kind: Aside): string | undefined =>
      this.present.pack.related(`${kind}s`) ?? this.ids.get(`made ${kind}s`);
    const stories = [this.present.pack.main, partOf('footnote'), partOf('endnote')].flatMap((part) =>
      part === undefined ? [] : [this.tree(part).root],
    );
    for (const kind of asides) {
      const part = partOf(kind);
      if (part === undefined) continue;
      const named = new Set(
        stories
          .flatMap((root) => descendants(root, `w:${kind}Reference`))
          .map(({ attributes }) => attributes['w:id']),
      );
      const { root } = this.tree(part);
      const stays = (each: Element | string): boolean =>
        typeof each === 'string' ||
        each.name !== `w:${kind}` ||
        each.attributes['w:type'] !== undefined ||
        named.has(each.attributes['w:id']);
      if (root.children.every(stays)) continue;
      root.children = root.children.filter(stays);
      this.changed.add(part);
    }
  }

  /** Declares every prefix that is used, and says of the newer ones that they may be passed over. */
  private declareNames({ root, namespaces }: Parsed): void {
    const { base, mine } = this.others;
    const known = new Map([...usualNamespaces, ...base.namespaces, ...mine.namespaces]);
    const ignorable = new Set((root.attributes['mc:Ignorable'] ?? '').split(' ').filter(Boolean));
    const before = ignorable.size;
    const declare = (prefix: string | undefined): void => {
      const uri = prefix === undefined || prefix === 'xml' ? undefined : known.get(prefix);
      if (prefix === undefined || uri === undefined || namespaces.has(prefix)) return;
      namespaces.set(prefix, uri);
      if (mine.ignorable.has(prefix)) ignorable.add(prefix);
    };
    const visit = (element: Element): void => {
      for (const name of [element.name, ...Object.keys(element.attributes)])
        declare(/^([^:]+):/.exec(name)?.[1]);
      for (const prefix of (element.attributes['Requires'] ?? '').split(' ')) declare(prefix || undefined);
      for (const each of elements(element)) visit(each);
    };
    visit(root);
    if (ignorable.size === before) return;
    root.attributes['mc:Ignorable'] = [...ignorable].join(' ');
    declare('mc');
  }
}

const relationsNamespace = 'http://schemas.openxmlformats.org/package/2006/relationships';
/** What ties a list's definition to others of its own file. */
const ofOneList = new Set(['w:nsid', 'w:numStyleLink', 'w:styleLink']);

/** A relation from a part, its target told from there where that is in the part's own folder. */
function relationship(
  id: string,
  type: string,
  from: string,
  { target, external }: Pick<Relation, 'target' | 'external'>,
): Element {
  const folder = from.replace(/[^/]*$/, '');
  const inside = folder !== '' && target.startsWith(folder) ? target.slice(folder.length) : `/${target}`;
  const where: Record<string, string> = external
    ? { Target: target, TargetMode: 'External' }
    : { Target: inside };
  return { name: 'Relationship', attributes: { Id: id, Type: type, ...where }, children: [] };
}

/** Whether two contents are the same. */
export const sameBytes = (a: Uint8Array, b: Uint8Array): boolean =>
  a.length === b.length && a.every((byte, index) => byte === b[index]);
const highest = (of: readonly Element[], attribute: string): number =>
  of.reduce((most, { attributes }) => Math.max(most, Number(attributes[attribute]) || 0), 0);
const styleName = (style: Element): string =>
  `${style.attributes['w:type'] ?? ''} ${child(style, 'w:name')?.attributes['w:val']?.toLowerCase() ?? ''}`;
