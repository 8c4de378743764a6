import { child, type Element, elements } from '../../files/xml/xml.ts';
import { sameBytes } from './carrier.ts';
import type { Side, Sides, Source } from './source.ts';

/**
 * What a file says beside its text: how styles look, how its last section is laid out, its theme. What only
 * mine changed is taken; what both changed differently stays as it is in the present file, and is told.
 */
export interface Definitions {
  /** Ids of styles, and names of elements of the last section, taken from mine. */
  styles: string[];
  section: string[];
  theme: Uint8Array | null;
  /** What both changed, as a person calls it. */
  kept: string[];
}

/** The elements of a section in order, without what refers to other parts (ECMA-376 part 1, 17.6). */
export const sectionOrder = [
  'w:footnotePr',
  'w:endnotePr',
  'w:type',
  'w:pgSz',
  'w:pgMar',
  'w:paperSrc',
  'w:pgBorders',
  'w:lnNumType',
  'w:pgNumType',
  'w:cols',
  'w:formProt',
  'w:vAlign',
  'w:noEndnote',
  'w:titlePg',
  'w:textDirection',
  'w:bidi',
  'w:rtlGutter',
  'w:docGrid',
] as const;
const sectionWords: Readonly<Record<string, string>> = {
  'w:pgSz': 'the page size',
  'w:pgMar': 'the margins',
  'w:pgBorders': 'the page borders',
  'w:pgNumType': 'the page numbering',
  'w:cols': 'the columns',
  'w:titlePg': 'whether the first page has a header of its own',
};

/** The properties of a file's last section, which stand at the end of its text. */
export const lastSection = (body: Element): Element | undefined => elements(body, 'w:sectPr').at(-1);

/** Which definitions mine changed, and what of it the present file changed otherwise. */
export function definitionsOf(sources: Sides<Source>): Definitions {
  const styles = settled(styleIds(sources), (side, id) => saidOfStyle(sources[side], id));
  const section = settled(sectionOrder, (side, name) => {
    const { body, pack } = sources[side];
    const element = child(lastSection(body), name);
    return element ? sources[side].value(element, pack.main) : '';
  });
  const nameOfStyle = (id: string): string => {
    const style = sources.present.styles.get(id);
    return `the style “${child(style, 'w:name')?.attributes['w:val'] ?? id}”`;
  };
  const kept = [
    ...section.kept.map((name) => sectionWords[name] ?? 'the layout of the last section'),
    ...styles.kept.map(nameOfStyle),
  ];
  return {
    styles: styles.taken,
    section: section.taken,
    theme: themeOfMine(sources),
    kept: [...new Set(kept)],
  };
}

/** Of what is named, what only mine changed and what both changed, each differently. */
function settled<Name extends string>(
  names: readonly Name[],
  said: (side: Side, name: Name) => string,
): { taken: Name[]; kept: Name[] } {
  const changed = names.filter((name) => {
    const [was, now, own] = [said('base', name), said('present', name), said('mine', name)];
    return own !== was && own !== now;
  });
  const isKept = (name: Name): boolean => said('base', name) !== said('present', name);
  return { taken: changed.filter((name) => !isKept(name)), kept: changed.filter(isKept) };
}

/** Styles that all three have: one that only mine has comes along with what uses it. */
const styleIds = ({ base, present, mine }: Sides<Source>): string[] =>
  [...present.styles.keys()].filter((id) => base.styles.has(id) && mine.styles.has(id));
function saidOfStyle(source: Source, id: string): string {
  const style = source.styles.get(id);
  return style ? source.value(style, source.pack.related('styles') ?? '') : '';
}

function themeOfMine({ base, present, mine }: Sides<Source>): Uint8Array | null {
  const theme = present.pack.related('theme');
  if (theme === undefined) return null;
  const [was, now, own] = [base, present, mine].map(({ parts }) => parts.get(theme));
  return was && now && own && sameBytes(was, now) && !sameBytes(own, now) ? own : null;
}
