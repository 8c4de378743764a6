import { align } from '../../compare/align.ts';
import { elementAt } from '../../document/elementAt.ts';
import { isRefusal, type Refusal } from '../../document/refusal.ts';
import { type Element, elements } from '../../files/xml/xml.ts';
import type { MergeRegion } from '../text.ts';
import { threeWay } from '../threeWay.ts';
import { type Definitions, definitionsOf } from './definitions.ts';
import { weaveParagraph, type WovenParagraph } from './paragraph.ts';
import { type Side, type Sides, Source } from './source.ts';
import { WordReader, type Words } from './words.ts';

/** A stretch of a merge: elements of each side, and what becomes of it. */
interface RegionNode {
  node: 'region';
  kind: MergeRegion['kind'];
  sides: Sides<Element[]>;
  woven: WovenParagraph | null;
  /** Row and column, inside a table. */
  place: string;
}
/**
 * An element that all sides have, its own attributes and those children that are no text from one of them.
 */
interface ShellNode {
  node: 'shell';
  name: string;
  attributes: Record<string, string>;
  head: { elements: Element[]; from: Side };
  children: MergeNode[];
}
export type MergeNode = RegionNode | ShellNode;

/** A header or footer that only mine has: its section, as its place, and the reference there. */
export interface AddedMargin {
  section: number;
  reference: Element;
}

/** A story of a document that is merged by itself: its text, or a header or footer. */
export interface StoryPlan {
  /** The part each side has it in. */
  parts: Sides<string>;
  nodes: MergeNode[];
  /** Where the present file has none. */
  added: AddedMargin | null;
}

/** The merge of three word-processing files, and what is needed to put the file together. */
export interface DocxPlan {
  /** As a person looks at them: the text first, then headers and footers. */
  regions: MergeRegion[];
  stories: StoryPlan[];
  sources: Sides<Source>;
  /** Whether all three were written by one program, so that formatting is compared as it is written. */
  sameWriter: boolean;
  /** What mine changed beside the text; nothing of it where other programs wrote the files. */
  definitions: Definitions;
}

const sideNames = ['base', 'present', 'mine'] as const;
const onSides = <T>(make: (side: Side) => T): Sides<T> => ({
  base: make('base'),
  present: make('present'),
  mine: make('mine'),
});

/**
 * Lays two changed .docx over the one they come from: block by block, tables by rows and cells, paragraphs by
 * words where both changed them. What a block names (notes, comments, pictures) is part of what it says.
 * @returns a refusal where a file cannot be read
 */
export function planDocx(base: Uint8Array, present: Uint8Array, mine: Uint8Array): DocxPlan | Refusal {
  const opened = [base, present, mine].map((bytes) => Source.open(bytes));
  const damaged = opened.find(isRefusal);
  if (damaged) return damaged;
  const [a, b, c] = opened as [Source, Source, Source];
  return new Planner({ base: a, present: b, mine: c }).plan();
}

const noDefinitions: Definitions = { styles: [], section: [], theme: null, kept: [] };

class Planner {
  private readonly readers: Sides<WordReader>;
  private readonly sameWriter: boolean;
  private readonly keys = new Map<Element, string>();
  /** The row and column of a table that is merged now. */
  private place = '';

  constructor(private readonly sources: Sides<Source>) {
    this.readers = onSides((side) => new WordReader(sources[side]));
    this.sameWriter = this.writtenAlike('present') && this.writtenAlike('mine');
  }

  plan(): DocxPlan {
    const { sources, sameWriter } = this;
    const text = {
      parts: onSides((side) => sources[side].pack.main),
      // What a section looks like stands at the end of the text, and is settled with its headers.
      nodes: this.merge(
        onSides((side) => elements(sources[side].body).filter(({ name }) => name !== 'w:sectPr')),
        onSides((side) => sources[side].pack.main),
      ),
      added: null,
    };
    const stories = [text, ...this.margins()];
    const regions = stories.flatMap((story) => this.shown(story));
    const definitions = sameWriter ? definitionsOf(sources) : noDefinitions;
    return { regions, stories, sources, sameWriter, definitions };
  }

  /** Whether most blocks that read as they did in the base are also written as they were. */
  private writtenAlike(side: 'present' | 'mine'): boolean {
    const count = (of: Side, key: (element: Element) => string): Map<string, number> => {
      const counts = new Map<string, number>();
      for (const element of elements(this.sources[of].body)) {
        const made = key(element);
        counts.set(made, (counts.get(made) ?? 0) + 1);
      }
      return counts;
    };
    const inBoth = (key: (of: Side) => (element: Element) => string): number => {
      const was = count('base', key('base'));
      let sum = 0;
      for (const [made, times] of count(side, key(side))) sum += Math.min(times, was.get(made) ?? 0);
      return sum;
    };
    const main = (of: Side): string => this.sources[of].pack.main;
    const written = inBoth((of) => (element) => this.sources[of].value(element, main(of)));
    // No more than all can read as they did; reading each costs more than a look at how it is written.
    if (written * 2 >= elements(this.sources.base.body).length) return true;
    const read = inBoth((of) => (element) => this.readers[of].key(element, main(of)));
    return written * 2 >= read;
  }

  private key(element: Element, side: Side, parts: Sides<string>): string {
    const known = this.keys.get(element);
    if (known !== undefined) return known;
    const made = this.sameWriter
      ? this.sources[side].value(element, parts[side])
      : this.readers[side].key(element, parts[side]);
    this.keys.set(element, made);
    return made;
  }

  private keysOf(lists: Sides<Element[]>, parts: Sides<string>): Sides<string[]> {
    return onSides((side) => lists[side].map((element) => this.key(element, side, parts)));
  }

  private merge(lists: Sides<Element[]>, parts: Sides<string>): MergeNode[] {
    const keys = this.keysOf(lists, parts);
    return threeWay(keys.base, keys.present, keys.mine, 'apart').flatMap((region) => {
      const sides = onSides((side) => lists[side].slice(region[side].start, region[side].end));
      return region.kind === 'conflict'
        ? this.refine(sides, parts)
        : [{ node: 'region' as const, kind: region.kind, sides, woven: null, place: this.place }];
    });
  }

  /** A conflict looked at closer: what is alike in it stands together, and is merged by itself. */
  private refine(sides: Sides<Element[]>, parts: Sides<string>): MergeNode[] {
    const toPresent = this.matches(sides, 'present', parts);
    const toMine = this.matches(sides, 'mine', parts);
    const nodes: MergeNode[] = [];
    const from = { base: 0, present: 0, mine: 0 };
    const gap = (until: Sides<number>): void => {
      const part = onSides((side) => sides[side].slice(from[side], until[side]));
      if (sideNames.some((side) => part[side].length > 0)) nodes.push(this.settle(part, parts));
    };
    for (const base of sides.base.keys()) {
      const [present, mine] = [toPresent.get(base), toMine.get(base)];
      if (present === undefined || mine === undefined) continue;
      gap({ base, present, mine });
      const one = {
        base: elementAt(sides.base, base),
        present: elementAt(sides.present, present),
        mine: elementAt(sides.mine, mine),
      };
      nodes.push(this.mergeOne(one, parts));
      Object.assign(from, { base: base + 1, present: present + 1, mine: mine + 1 });
    }
    gap({ base: sides.base.length, present: sides.present.length, mine: sides.mine.length });
    return nodes;
  }

  /** Which element of a side each of the base has become. */
  private matches(
    sides: Sides<Element[]>,
    side: 'present' | 'mine',
    parts: Sides<string>,
  ): Map<number, number> {
    const items = (of: Side) =>
      sides[of].map((element) => ({
        key: this.key(element, of, parts),
        family: element.name,
        text: this.words(element, of, parts).text,
      }));
    const [was, now] = [items('base'), items(side)];
    const found = new Map<number, number>();
    for (const { a, b } of align(was, now)) if (a !== null && b !== null) found.set(a, b);
    // Where each side has as many of the same kinds, they are the same ones, however much they changed.
    const families = (of: readonly { family: string }[]): string => of.map(({ family }) => family).join(' ');
    if (families(was) === families(now)) for (const index of was.keys()) found.set(index, index);
    return found;
  }

  /** A stretch in which nothing is alike: of one side where the other left it alone, else a conflict. */
  private settle(sides: Sides<Element[]>, parts: Sides<string>): RegionNode {
    const { base, present, mine } = onSides((side) =>
      JSON.stringify(sides[side].map((element) => this.key(element, side, parts))),
    );
    const kind = kindOf(base, present, mine);
    const isSeen = (side: Side): boolean =>
      sides[side].some((element) => {
        const { text, pictures } = this.words(element, side, parts);
        return text !== '' || pictures.length > 0;
      });
    // There is nothing to choose between what nobody sees.
    if (kind === 'conflict' && !sideNames.some(isSeen))
      return { node: 'region', kind: 'present', sides, woven: null, place: this.place };
    return { node: 'region', kind, sides, woven: null, place: this.place };
  }

  private mergeOne(one: Sides<Element>, parts: Sides<string>): MergeNode {
    const sides = onSides((side) => [one[side]]);
    const settled = this.settle(sides, parts);
    const { name } = one.present;
    if (settled.kind !== 'conflict' || sideNames.some((side) => one[side].name !== name)) return settled;
    if (name === 'w:p') {
      const value = (element: Element, side: Side): string => this.sources[side].value(element, parts[side]);
      const woven = weaveParagraph({ sides: one, value, isPlain: !this.sameWriter });
      return woven ? { ...settled, kind: 'words', woven } : settled;
    }
    if (name === 'w:tbl') return this.mergeTable(one, parts);
    if (name === 'w:tr') return this.mergeRow(one, parts) ?? settled;
    return settled;
  }

  private mergeTable(one: Sides<Element>, parts: Sides<string>): ShellNode {
    const isHead = ({ name }: Element): boolean => name === 'w:tblPr' || name === 'w:tblGrid';
    const rows = onSides((side) => elements(one[side]).filter((each) => !isHead(each)));
    return this.shell(one, parts, isHead, this.merge(rows, parts));
  }

  /** A row both sides changed, cell by cell; null where one of them put in a cell or took one out. */
  private mergeRow(one: Sides<Element>, parts: Sides<string>): ShellNode | null {
    const cells = onSides((side) => elements(one[side], 'w:tc'));
    const count = cells.base.length;
    const isHead = ({ name }: Element): boolean => name !== 'w:tc';
    if (cells.present.length !== count || cells.mine.length !== count) return null;
    if (sideNames.some((side) => elements(one[side], 'w:sdt').length > 0)) return null;
    const children = cells.base.map((base, index) => {
      const cell = { base, present: elementAt(cells.present, index), mine: elementAt(cells.mine, index) };
      const isCellHead = ({ name }: Element): boolean => name === 'w:tcPr';
      const blocks = onSides((side) => elements(cell[side]).filter((each) => !isCellHead(each)));
      const row = this.words(elementAt(cells.present, 0), 'present', parts).text;
      const outer = this.place;
      this.place = `${row && index > 0 ? `Row “${shortened(row)}”, column` : 'Column'} ${index + 1}`;
      const merged = this.merge(blocks, parts);
      this.place = outer;
      return this.shell(cell, parts, isCellHead, merged);
    });
    return this.shell(one, parts, isHead, children);
  }

  /** What stands around merged children: the present one's, or mine where only that changed it. */
  private shell(
    one: Sides<Element>,
    parts: Sides<string>,
    isHead: (element: Element) => boolean,
    children: MergeNode[],
  ): ShellNode {
    const heads = onSides((side) => elements(one[side]).filter(isHead));
    const said = onSides((side) =>
      heads[side].map((each) => this.sources[side].value(each, parts[side])).join(''),
    );
    const from: Side = this.sameWriter && said.base === said.present ? 'mine' : 'present';
    const { name, attributes } = one.present;
    return { node: 'shell', name, attributes, head: { elements: heads[from], from }, children };
  }

  private words(element: Element, side: Side, parts: Sides<string>): Words {
    return this.readers[side].words(element, parts[side]);
  }

  /** Headers and footers that mine changed or put in, by their place: section, kind and pages. */
  private margins(): StoryPlan[] {
    const places = onSides((side) => marginsOf(this.sources[side]));
    const done = new Set<string>();
    return [...places.mine].flatMap(([place, mine]): StoryPlan[] => {
      const [base, present] = [places.base.get(place), places.present.get(place)];
      const where = present?.part ?? `new ${place}`;
      if (done.has(where) || (base && !present)) return [];
      done.add(where);
      const parts = { base: base?.part ?? '', present: present?.part ?? '', mine: mine.part };
      const blocks = onSides((side) =>
        parts[side] === '' ? [] : elements(this.sources[side].root(parts[side])),
      );
      const keys = onSides((side) => this.keysOf(blocks, parts)[side].join(''));
      if (keys.mine === keys.base || keys.mine === keys.present) return [];
      const added = present ? null : { section: mine.section, reference: mine.reference };
      return [{ parts, nodes: this.merge(blocks, parts), added }];
    });
  }

  /** Regions as they are shown. */
  private shown({ nodes, parts }: StoryPlan): MergeRegion[] {
    const label = parts.present === this.sources.present.pack.main ? '' : `${marginName(parts)}: `;
    return regionsOf(nodes).map(({ kind, sides, woven, place }) => {
      const words = onSides((side) => sides[side].map((element) => this.words(element, side, parts)));
      const lines = onSides((side) => words[side].flatMap(({ text }) => (text === '' ? [] : [label + text])));
      const taken = { same: lines.present, present: lines.present, both: lines.present, mine: lines.mine };
      const chosen = kind === 'conflict' || kind === 'words' ? null : taken[kind];
      const merged = woven ? [label + woven.words] : chosen;
      const pictures = onSides((side) => words[side].flatMap((each) => each.pictures));
      const hasPictures = kind !== 'same' && sideNames.some((side) => pictures[side].length > 0);
      const readAlike = lines.present.join('\n') === lines.mine.join('\n');
      return {
        kind,
        ...lines,
        merged,
        ...(place === '' ? {} : { place }),
        ...(hasPictures ? { pictures } : {}),
        ...(kind === 'conflict' && readAlike && !hasPictures ? { formattingOnly: true } : {}),
      };
    });
  }
}

/** Signs of a row's first cell that name it. */
const nameLength = 40;
const shortened = (text: string): string =>
  text.length > nameLength ? `${text.slice(0, nameLength - 1)}…` : text;

/** Which side changed something, by what it says on each. */
function kindOf(base: string, present: string, mine: string): MergeRegion['kind'] {
  if (present === mine) return base === present ? 'same' : 'both';
  if (base === present) return 'mine';
  return base === mine ? 'present' : 'conflict';
}

/** The regions of a plan's nodes in order, those inside tables too. */
export const regionsOf = (nodes: readonly MergeNode[]): RegionNode[] =>
  nodes.flatMap((each) => (each.node === 'region' ? [each] : regionsOf(each.children)));

interface MarginPlace {
  part: string;
  section: number;
  reference: Element;
}

/** Headers and footers of a file by their place. */
function marginsOf(source: Source): Map<string, MarginPlace> {
  const places = new Map<string, MarginPlace>();
  for (const [section, properties] of source.sections.entries()) {
    for (const reference of elements(properties)) {
      const kind = /^w:(header|footer)Reference$/.exec(reference.name)?.[1];
      const relation = source.relation(source.pack.main, reference.attributes['r:id'] ?? '');
      if (!kind || !relation || !source.root(relation.target)) continue;
      const place = `${section} ${kind} ${reference.attributes['w:type'] ?? 'default'}`;
      places.set(place, { part: relation.target, section, reference });
    }
  }
  return places;
}

const marginName = ({ present, mine }: Sides<string>): string =>
  /footer/i.test(present || mine) ? 'footer' : 'header';
