import type { Run } from '../reading.ts';
import { child, elements, type Element } from '../xml/xml.ts';

/** What a named paragraph or character style says, its bases included. */
export interface NamedStyle {
  id: string;
  /** 1 to 6, 0 for a title, null for body text. */
  headingLevel: number | null;
  bold: boolean;
  italic: boolean;
  code: boolean;
  align: string | undefined;
  numPr: Element | undefined;
  /** Colour, size and highlighting; of headings none, they look as headings do. */
  look: ReturnType<typeof lookOf>;
}
export interface StyleSheet {
  paragraph(id: string | undefined): NamedStyle;
  character(id: string | undefined): NamedStyle;
}

const plain: NamedStyle = {
  id: '',
  headingLevel: null,
  bold: false,
  italic: false,
  code: false,
  align: undefined,
  numPr: undefined,
  look: {},
};

/** Longest chain of styles based on one another; a longer one is a circle. */
const longestChain = 20;

/**
 * Reads word/styles.xml (ECMA-376 part 1, 17.7). Headings already look heavy, so their bold is not repeated
 * on runs.
 */
export function readStyles(root: Element | undefined): StyleSheet {
  const byId = new Map(
    elements(root, 'w:style').map((style) => [style.attributes['w:styleId'] ?? '', style]),
  );
  const known = new Map<string, NamedStyle>();
  const resolve = (id: string | undefined, depth = 0): NamedStyle => {
    const style = id === undefined ? undefined : byId.get(id);
    if (id === undefined || !style || depth > longestChain) return plain;
    const found = known.get(id);
    if (found) return found;
    const base = resolve(child(style, 'w:basedOn')?.attributes['w:val'], depth + 1);
    const name = (child(style, 'w:name')?.attributes['w:val'] ?? '').toLowerCase();
    const paragraph = child(style, 'w:pPr');
    const run = child(style, 'w:rPr');
    const font = child(run, 'w:rFonts')?.attributes['w:ascii'] ?? '';
    const headingLevel =
      headingLevelOf(name, child(paragraph, 'w:outlineLvl')?.attributes['w:val']) ?? base.headingLevel;
    const made: NamedStyle = {
      id,
      headingLevel,
      bold: headingLevel === null && (onOff(child(run, 'w:b')) ?? base.bold),
      italic: onOff(child(run, 'w:i')) ?? base.italic,
      code: base.code || /mono|consol|courier/i.test(font),
      align: child(paragraph, 'w:jc')?.attributes['w:val'] ?? base.align,
      numPr: child(paragraph, 'w:numPr') ?? base.numPr,
      look: headingLevel === null ? { ...base.look, ...lookOf(run) } : {},
    };
    known.set(id, made);
    return made;
  };
  return { paragraph: resolve, character: resolve };
}

function headingLevelOf(name: string, outline: string | undefined): number | null {
  if (name === 'title') return 0;
  const named = /^heading ([1-6])$/.exec(name)?.[1];
  if (named) return Number(named);
  return outline !== undefined && /^[0-5]$/.test(outline) ? Number(outline) + 1 : null;
}

/** An on-off property: there without a value means on (ECMA-376 part 1, 17.17.4). */
export function onOff(element: Element | undefined): boolean | undefined {
  if (!element) return undefined;
  return !['0', 'false', 'off', 'none'].includes(element.attributes['w:val'] ?? '1');
}

/** Colour, size, highlighting and shading that run properties say (ECMA-376 part 1, 17.3.2). */
export function lookOf(properties: Element | undefined): Pick<Run, 'colour' | 'size' | 'highlight'> {
  const said = (name: string, attribute = 'w:val'): string | undefined =>
    child(properties, name)?.attributes[attribute];
  const colour = said('w:color');
  const size = Number(said('w:sz'));
  const shade = said('w:shd', 'w:fill');
  const highlight = said('w:highlight') ?? (shade === 'auto' ? undefined : shade);
  return {
    ...(colour && colour !== 'auto' ? { colour: colour.toLowerCase() } : {}),
    ...(size > 0 ? { size: size / 2 } : {}),
    ...(highlight && highlight !== 'none' ? { highlight: highlight.toLowerCase() } : {}),
  };
}
