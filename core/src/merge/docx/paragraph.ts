import { tokenize } from '../../compare/tokens.ts';
import { child, type Element, elements, text } from '../../files/xml/xml.ts';
import { threeWay } from '../threeWay.ts';
import type { Side } from './source.ts';

/** A piece of a paragraph that changes as one: a word of a run, or anything else inside it. */
interface Unit {
  key: string;
  /** What it stands for in the file. */
  elements: Element[];
  /** The words it adds. */
  words: string;
  /** Formatting of a word, by what it says; null for what is no word. */
  formatting: string | null;
  /** Bookmarks before and after it: they go where it goes, and make no difference. */
  before: Element[];
  after: Element[];
}

/** Pieces of one paragraph put together from two sides, each with the side it is of. */
export interface WovenParagraph {
  pieces: { element: Element; from: Side }[];
  words: string;
}

/** Paragraphs of three sides, and how they are compared. */
interface Weaving {
  sides: Readonly<Record<Side, Element>>;
  /** What an element of a side says. */
  value: (element: Element, side: Side) => string;
  /** Words are compared without their formatting. */
  isPlain: boolean;
}

/**
 * Two changes of other words of one paragraph put together; null where they overlap, where one side took all
 * of it away, or where both changed how it stands.
 */
export function weaveParagraph({ sides, value, isPlain }: Weaving): WovenParagraph | null {
  const properties = (side: Side): Element | undefined => child(sides[side], 'w:pPr');
  const said = (side: Side): string => {
    const own = properties(side);
    return own && !isPlain ? value(own, side) : '';
  };
  const [was, now, mine] = [said('base'), said('present'), said('mine')];
  if (was !== now && was !== mine && now !== mine) return null;
  const unitsOf = (side: Side): Unit[] => units(sides[side], (element) => value(element, side), isPlain);
  const all = { base: unitsOf('base'), present: unitsOf('present'), mine: unitsOf('mine') };
  if (Object.values(all).some((each) => each.every(({ words }) => words.trim() === ''))) return null;
  const keys = (side: Side): string[] => all[side].map(({ key }) => key);
  const regions = threeWay(keys('base'), keys('present'), keys('mine'));
  if (regions.some(({ kind }) => kind === 'conflict')) return null;
  const woven = regions.flatMap((region) => {
    const from: Side = region.kind === 'mine' ? 'mine' : 'present';
    return all[from].slice(region[from].start, region[from].end).map((unit) => ({ ...unit, from }));
  });
  const keeper: Side = was === now && !isPlain ? 'mine' : 'present';
  const own = properties(keeper);
  return {
    pieces: [...(own ? [{ element: own, from: keeper }] : []), ...joined(woven)],
    words: woven.map(({ words }) => words).join(''),
  };
}

/** Words side by side of one side and formatting are one run again. */
function joined(units: readonly (Unit & { from: Side })[]): { element: Element; from: Side }[] {
  const pieces: { element: Element; from: Side }[] = [];
  let last: (Unit & { from: Side }) | null = null;
  let words: Element | undefined;
  for (const unit of units) {
    const { from, formatting } = unit;
    const goesOn =
      last?.formatting === formatting && last.from === from && last.after.length + unit.before.length === 0;
    if (goesOn && formatting !== null && words) words.children = [text(words) + unit.words];
    else {
      const own = formatting === null ? unit.elements : structuredClone(unit.elements);
      words = formatting === null ? undefined : child(own[0], 'w:t');
      pieces.push(...[...unit.before, ...own, ...unit.after].map((element) => ({ element, from })));
    }
    last = unit;
  }
  return pieces;
}

const isBookmark = /^w:bookmark(?:Start|End)$/;

/** Cuts a paragraph into units; what a field holds from its beginning to its end is one. */
function units(paragraph: Element, value: (element: Element) => string, isPlain: boolean): Unit[] {
  const found: Unit[] = [];
  const waiting: Element[] = [];
  const take = (more: readonly Unit[]): void => {
    more[0]?.before.push(...waiting.splice(0));
    found.push(...more);
  };
  let field: Element[] = [];
  let depth = 0;
  for (const element of elements(paragraph)) {
    if (element.name === 'w:pPr') continue;
    if (field.length === 0 && isBookmark.test(element.name)) {
      waiting.push(element);
      continue;
    }
    const marks = elements(element, 'w:fldChar').map(({ attributes }) => attributes['w:fldCharType']);
    if (field.length === 0 && !marks.includes('begin')) {
      take(unitsOfChild(element, value, isPlain));
      continue;
    }
    field.push(element);
    for (const mark of marks) depth += mark === 'begin' ? 1 : -Number(mark === 'end');
    if (depth > 0) continue;
    take([asOne(field, value)]);
    field = [];
  }
  if (field.length > 0) take([asOne(field, value)]);
  found.at(-1)?.after.push(...waiting);
  return found;
}

/** Elements that only change together. */
const asOne = (of: Element[], value: (element: Element) => string): Unit => ({
  key: of.map(value).join(''),
  elements: of,
  words: of.map(wordsIn).join(''),
  formatting: null,
  before: [],
  after: [],
});

function unitsOfChild(element: Element, value: (element: Element) => string, isPlain: boolean): Unit[] {
  const inner = elements(element).filter(
    ({ name }) => name !== 'w:rPr' && name !== 'w:lastRenderedPageBreak',
  );
  if (element.name !== 'w:r' || inner.length === 0 || inner.some(({ name }) => name !== 'w:t')) {
    const unit = asOne([element], value);
    return unit.key === '' ? [] : [unit];
  }
  const properties = child(element, 'w:rPr');
  const formatting = properties ? value(properties) : '';
  return tokenize(inner.map(text).join('')).map((word) => {
    const words = { name: 'w:t', attributes: { 'xml:space': 'preserve' }, children: [word] };
    const run = { name: 'w:r', attributes: {}, children: properties ? [properties, words] : [words] };
    const key = isPlain ? word : `${formatting} ${word}`;
    return { key, elements: [run], words: word, formatting, before: [], after: [] };
  });
}

const wordsIn = (element: Element): string =>
  element.name === 'w:t' ? text(element) : elements(element).map(wordsIn).join('');
