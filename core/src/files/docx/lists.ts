import { child, elements, type Element } from '../xml/xml.ts';

interface ListLevel {
  format: string;
  text: string;
  start: number;
  /** How many steps further in than the first it is drawn. */
  depth: number;
}

/** Gives list items their printed marks, counting as it goes. */
export interface ListCounter {
  /** The mark and level of the next item with these numbering properties; null when it is no list item. */
  next(properties: Element | undefined, styleId: string): { level: number; marker: string } | null;
}
export interface NumberingPart {
  counter(): ListCounter;
}

/** Reads word/numbering.xml (ECMA-376 part 1, 17.9). */
export function readNumbering(root: Element | undefined): NumberingPart {
  const abstracts = new Map<string, Map<number, ListLevel>>();
  /** Lists of one level, which stand in one another only by where they are drawn. */
  const single = new Set<string>();
  for (const abstract of elements(root, 'w:abstractNum')) {
    const key = abstract.attributes['w:abstractNumId'] ?? '';
    if (child(abstract, 'w:multiLevelType')?.attributes['w:val'] === 'singleLevel') single.add(key);
    abstracts.set(key, readLevels(elements(abstract, 'w:lvl')));
  }
  const lists = new Map<string, { key: string; levels: Map<number, ListLevel>; isSingle: boolean }>();
  for (const list of elements(root, 'w:num')) {
    const id = list.attributes['w:numId'] ?? '';
    const key = child(list, 'w:abstractNumId')?.attributes['w:val'] ?? '';
    const levels = new Map(abstracts.get(key));
    let restarts = false;
    for (const override of elements(list, 'w:lvlOverride')) {
      const index = Number(override.attributes['w:ilvl'] ?? 0);
      for (const [level, made] of readLevels(elements(override, 'w:lvl'))) levels.set(level, made);
      const start = child(override, 'w:startOverride')?.attributes['w:val'];
      const level = levels.get(index);
      if (start !== undefined && level) {
        levels.set(index, { ...level, start: Number(start) || 0 });
        restarts = true;
      }
    }
    lists.set(id, { key: restarts ? `list ${id}` : `abstract ${key}`, levels, isSingle: single.has(key) });
  }
  return {
    counter() {
      const counts = new Map<string, number[]>();
      return {
        next(properties) {
          const id = child(properties, 'w:numId')?.attributes['w:val'];
          const list = id === undefined || id === '0' ? undefined : lists.get(id);
          if (!list) return null;
          const level = Math.min(
            8,
            Math.max(0, Number(child(properties, 'w:ilvl')?.attributes['w:val'] ?? 0) || 0),
          );
          const count = counts.get(list.key) ?? [];
          counts.set(list.key, count);
          count[level] = (count[level] ?? (list.levels.get(level)?.start ?? 1) - 1) + 1;
          count.length = level + 1;
          const depth = list.isSingle ? (list.levels.get(level)?.depth ?? 0) : 0;
          return { level: level + depth, marker: markerOf(list.levels, level, count) };
        },
      };
    },
  };
}

function readLevels(levels: Element[]): Map<number, ListLevel> {
  return new Map(
    levels.map((level) => [
      Number(level.attributes['w:ilvl'] ?? 0),
      {
        format: child(level, 'w:numFmt')?.attributes['w:val'] ?? 'decimal',
        text: child(level, 'w:lvlText')?.attributes['w:val'] ?? '',
        start: Number(child(level, 'w:start')?.attributes['w:val'] ?? 1) || 0,
        depth: depthOf(child(child(level, 'w:pPr'), 'w:ind')),
      },
    ]),
  );
}

/** A step of lists of one level that stand in one another: a quarter of an inch, in twentieths of a point. */
const stepOfLists = 360;
/** How many steps further in than the first a list stands (ECMA-376 part 1, 17.9.12 and 17.3.1.12). */
function depthOf(indent: Element | undefined): number {
  const left = Number(indent?.attributes['w:start'] ?? indent?.attributes['w:left'] ?? 0) || 0;
  return Math.min(8, Math.max(0, Math.round(left / stepOfLists) - 1));
}

function markerOf(
  levels: Map<number, ListLevel>,
  level: number,
  count: readonly (number | undefined)[],
): string {
  const own = levels.get(level);
  if (!own || own.format === 'none') return '';
  if (own.format === 'bullet') return level % 2 === 0 ? '•' : '–';
  return own.text.replace(/%([1-9])/g, (_, digit: string) => {
    const index = Number(digit) - 1;
    const at = levels.get(index);
    return formatCount(count[index] ?? at?.start ?? 1, at?.format ?? 'decimal');
  });
}

function formatCount(value: number, format: string): string {
  switch (format) {
    case 'lowerLetter':
      return letters(value);
    case 'upperLetter':
      return letters(value).toUpperCase();
    case 'lowerRoman':
      return roman(value);
    case 'upperRoman':
      return roman(value).toUpperCase();
    case 'decimalZero':
      return `${value}`.padStart(2, '0');
    default:
      return `${value}`;
  }
}

/** a … z, aa, bb …: the letter repeated (ECMA-376 part 1, 17.18.59). */
function letters(value: number): string {
  if (value < 1) return `${value}`;
  return String.fromCharCode(97 + ((value - 1) % 26)).repeat(Math.min(20, Math.ceil(value / 26)));
}

function roman(value: number): string {
  if (value < 1 || value > 3999) return `${value}`;
  const parts: [number, string][] = [
    [1000, 'm'],
    [900, 'cm'],
    [500, 'd'],
    [400, 'cd'],
    [100, 'c'],
    [90, 'xc'],
    [50, 'l'],
    [40, 'xl'],
    [10, 'x'],
    [9, 'ix'],
    [5, 'v'],
    [4, 'iv'],
    [1, 'i'],
  ];
  let rest = value;
  let written = '';
  for (const [size, sign] of parts)
    while (rest >= size) {
      written += sign;
      rest -= size;
    }
  return written;
}
