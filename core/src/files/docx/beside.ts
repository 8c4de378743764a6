import { isRefusal } from '../../document/refusal.ts';
import { child, descendants, type Element, elements } from '../xml/xml.ts';
import { crc32, listZip } from '../zip/readZip.ts';
import type { DocxPackage } from './package.ts';

/**
 * What of a file prints and is not read into blocks: told apart by a hash, so that a comparison can say that
 * it differs, where it cannot show how.
 */
export interface Beside {
  /** As a person calls it: "embedded object". */
  what: string;
  hash: string;
}

const encoder = new TextEncoder();
const hashOf = (text: string): string => crc32(encoder.encode(text)).toString(16);

/** Attributes that programs renew at every saving and nobody sees (ECMA-376 part 1, 17.3.1.26). */
const isNoise = (name: string): boolean => /^w:rsid|^w14:(?:para|text)Id$/.test(name);

/** An element as a text, the same whatever a program noted of its saving; parts of it can be left out. */
function canonical(element: Element, leaves: (child: Element) => boolean = () => false): string {
  const attributes = Object.entries(element.attributes)
    .filter(([name]) => !isNoise(name))
    .map(([name, value]) => `${name}=${value}`)
    .sort()
    .join(' ');
  const children = element.children.map((each) => {
    if (typeof each === 'string') return each;
    return leaves(each) ? '' : canonical(each);
  });
  return `<${element.name} ${attributes}>${children.join('')}</>`;
}

/** A hash of what is left of an element's children; undefined where nothing is. */
function hashOfRest(parent: Element | undefined, read: ReadonlySet<string>): string | undefined {
  const rest = elements(parent).filter(({ name }) => !read.has(name));
  return rest.length > 0 ? rest.map((each) => canonical(each)).join('') : undefined;
}

/** Properties of a paragraph that its block tells (ECMA-376 part 1, 17.3.1), or that are told elsewhere. */
const readOfParagraph = new Set([
  ...['w:pStyle', 'w:numPr', 'w:jc', 'w:shd', 'w:rPr', 'w:sectPr', 'w:outlineLvl', 'w:bidi'],
  ...['w:pageBreakBefore', 'w:pPrChange', 'w:ind'],
]);
/** Properties of a run that prints and is not read (17.3.2). */
const unreadOfRun = new Set([
  ...['w:rFonts', 'w:spacing', 'w:w', 'w:kern', 'w:position', 'w:effect', 'w:bdr', 'w:em', 'w:outline'],
  ...['w:shadow', 'w:emboss', 'w:imprint', 'w:dstrike'],
]);
const indents = ['w:hanging', 'w:firstLine', 'w:right', 'w:end', 'w:hangingChars', 'w:firstLineChars'];

/** A hash of how a paragraph stands beside what its block tells: spacing, borders, tabs, fonts. */
export function restOfParagraph(paragraph: Element): string | undefined {
  const properties = child(paragraph, 'w:pPr');
  const place = child(properties, 'w:ind')?.attributes ?? {};
  const indent = indents.flatMap((name) => (place[name] === undefined ? [] : [`${name}=${place[name]}`]));
  const fonts = new Set<string>();
  for (const run of descendants(paragraph, 'w:r')) {
    const said = elements(child(run, 'w:rPr')).filter(({ name }) => unreadOfRun.has(name));
    if (said.length > 0) fonts.add(said.map((each) => canonical(each)).join(''));
  }
  const rest = [hashOfRest(properties, readOfParagraph), ...indent, ...fonts].filter(Boolean);
  return rest.length > 0 ? hashOf(rest.join('|')) : undefined;
}

/** A hash of how a table looks: its style, borders and widths, and the kinds of rows and cells in it. */
export function restOfTable(table: Element): string | undefined {
  const kinds = new Set<string>();
  const note = (properties: Element | undefined, read: string[]): void => {
    const rest = hashOfRest(properties, new Set([...read, 'w:trPrChange', 'w:tcPrChange']));
    if (rest !== undefined) kinds.add(rest);
  };
  for (const row of elements(table, 'w:tr')) {
    if (child(child(row, 'w:trPr'), 'w:del')) continue;
    note(child(row, 'w:trPr'), ['w:tblHeader', 'w:del', 'w:ins', 'w:cnfStyle', 'w:gridBefore']);
    // Widths shift with every column that comes.
    for (const cell of elements(row, 'w:tc'))
      note(child(cell, 'w:tcPr'), [
        'w:tcW',
        'w:gridSpan',
        'w:vMerge',
        'w:cellDel',
        'w:cellIns',
        'w:cnfStyle',
      ]);
  }
  const properties = child(table, 'w:tblPr');
  // What of its style is used says nothing where it has none (17.4.55).
  const unstyled = child(properties, 'w:tblStyle') ? [] : ['w:tblLook'];
  const own = hashOfRest(properties, new Set(['w:bidiVisual', 'w:tblPrChange', ...unstyled]));
  const rest = [own, ...[...kinds].sort()].filter(Boolean);
  return rest.length > 0 ? hashOf(rest.join('|')) : undefined;
}

/** The part that holds macros. */
export const isMacro = /vbaProject[^/]*\.bin$/i;

/** Parts by what they are to a person. */
const partKinds: readonly (readonly [what: string, name: RegExp])[] = [
  ['embedded object', /(?:^|\/)(?:embeddings|activeX)\//i],
  ['chart', /(?:^|\/)charts\/(?:chart|chartex)[^/]*\.xml$/i],
  ['diagram', /(?:^|\/)diagrams\/data[^/]*\.xml$/i],
  ['theme', /(?:^|\/)theme\/theme[^/]*\.xml$/i],
  ['macro', isMacro],
];

/** A hash of a part; of a package within, of what its entries hold, whenever it was saved. */
function hashOfPart(pack: DocxPackage, name: string): string {
  const bytes = pack.part(name);
  if (isRefusal(bytes)) return '';
  const inner = bytes[0] === 0x50 && bytes[1] === 0x4b ? listZip(bytes) : null;
  if (inner === null || isRefusal(inner)) return `${bytes.length}-${crc32(bytes).toString(16)}`;
  return hashOf(
    inner
      .filter((entry) => !/^docProps\//.test(entry.name))
      .map((entry) => `${entry.name} ${entry.crc32}`)
      .sort()
      .join('|'),
  );
}

/** Styles that are used in some texts, with those they are based on, and the defaults (17.7). */
function usedStyles(sheet: Element | undefined, texts: readonly Element[]): Beside[] {
  const byId = new Map(
    elements(sheet, 'w:style').map((style) => [style.attributes['w:styleId'] ?? '', style]),
  );
  const used = new Map<string, Element>();
  const use = (id: string | undefined): void => {
    const style = id === undefined ? undefined : byId.get(id);
    if (id === undefined || !style || used.has(id)) return;
    used.set(id, style);
    use(child(style, 'w:basedOn')?.attributes['w:val']);
  };
  for (const [id, { attributes }] of byId) if (/^(?:1|true|on)$/.test(attributes['w:default'] ?? '')) use(id);
  for (const text of texts)
    for (const name of ['w:pStyle', 'w:rStyle', 'w:tblStyle'])
      for (const { attributes } of descendants(text, name)) use(attributes['w:val']);
  const defaults = child(sheet, 'w:docDefaults');
  return [
    { what: `${styleWord}defaults`, hash: hashOf(defaults ? canonical(defaults) : '') },
    ...[...used].map(([id, style]) => {
      const said = elements(style).filter(({ name }) => looks.test(name));
      const name = child(style, 'w:name')?.attributes['w:val'] ?? id;
      return { what: `${styleWord}${name}`, hash: hashOf(said.map((each) => canonical(each)).join('')) };
    }),
  ];
}
const looks = /^w:(?:basedOn|pPr|rPr|tblPr|trPr|tcPr|tblStylePr)$/;
/** Begins what is told of a style; one that only one of two files uses is told where it is used. */
export const styleWord = 'style ';

/** What a package holds beside the text of its stories. */
export function besideOf(
  pack: DocxPackage,
  {
    body,
    texts,
    styles,
  }: { body: Element | undefined; texts: readonly Element[]; styles: Element | undefined },
): Beside[] {
  const parts = partKinds.flatMap(([what, pattern]): Beside[] => {
    const names = pack.names.filter((name) => pattern.test(name)).sort();
    return names.length > 0 ? [{ what, hash: names.map((name) => hashOfPart(pack, name)).join(' ') }] : [];
  });
  const sections = (body ? descendants(body, 'w:sectPr') : []).map((section) =>
    canonical(section, ({ name }) => /^w:(?:header|footer)Reference$|^w:sectPrChange$/.test(name)),
  );
  return [...parts, { what: 'page layout', hash: hashOf(sections.join('|')) }, ...usedStyles(styles, texts)];
}
