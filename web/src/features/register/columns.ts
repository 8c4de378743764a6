/** What a row of the Register can say, in the usual order. */
const columnNames = {
  number: 'Number',
  title: 'Title and last comment',
  strand: 'Strand',
  inForce: 'In force',
  latest: 'Latest',
  custody: 'Checked out by',
  owner: 'Owner',
  reviewBy: 'Review by',
  type: 'Type',
  subject: 'Subject',
  changed: 'Last change',
} as const;

type CommonColumn = keyof typeof columnNames;
/** A column; `own:` and a name is a field of the library's own. */
export type Column = CommonColumn | `own:${string}`;

const commonColumns = Object.keys(columnNames) as CommonColumn[];
const isCommon = (column: string): column is CommonColumn =>
  commonColumns.some((common) => common === column);
const isOwn = (column: string): column is `own:${string}` => column.startsWith('own:');

/** Every column there is in a library with these fields of its own. */
export const allColumns = (ownNames: readonly string[]): Column[] => [
  ...commonColumns,
  ...ownNames.map((name): Column => `own:${name}`),
];

/** The field of the library's own that a column shows; null for the others. */
export const ownName = (column: Column): string | null =>
  isOwn(column) ? column.slice('own:'.length) : null;

/** What a column is called. */
export const columnName = (column: Column): string =>
  isCommon(column) ? columnNames[column] : (ownName(column) ?? column);

/** The layout as far as a library has the columns. */
export const ofLibrary = (layout: Layout, ownNames: readonly string[]): Layout => {
  const known = allColumns(ownNames);
  return { ...layout, shown: layout.shown.filter((column) => known.includes(column)) };
};

/** Which columns are shown, in their order, and the widths somebody gave them, in pixels. */
export interface Layout {
  shown: readonly Column[];
  widths: Readonly<Partial<Record<Column, number>>>;
}

export const usualLayout: Layout = {
  shown: ['number', 'title', 'strand', 'inForce', 'latest', 'custody'],
  widths: {},
};

/** The title is always there: it leads to the document, and takes the room the others leave. */
export const isFixed = (column: Column): boolean => column === 'title';

/** A column narrower than this could not be got hold of again. */
export const leastWidth = 40;
const mostWidth = 800;

const ownWidth = 120;
const others = { title: 0, owner: 120, reviewBy: 100, type: 140, subject: 130, changed: 120 };
/** Widths in pixels by the room there is, the widest first; the Strand's is its least. */
const usual: [from: number, widths: Record<CommonColumn, number>][] = [
  [1440, { ...others, number: 80, strand: 252, inForce: 70, latest: 130, custody: 250 }],
  [1100, { ...others, number: 74, strand: 252, inForce: 62, latest: 112, custody: 232 }],
  [800, { ...others, number: 66, strand: 228, inForce: 44, latest: 108, custody: 104 }],
  [0, { ...others, number: 62, strand: 192, inForce: 44, latest: 84, custody: 104 }],
];

/** A title of some words; what is left of the room beyond it is the Strand's, up to a width. */
const titleWidth = 420;
const mostStrand = 620;

/** What a row takes beside its columns: its marks, its padding, and the gap before each column. */
const [marks, padding, gap] = [50, 32, 10];

/** The width of a column in pixels, where the list has so much room. */
export function widthOf(column: Column, layout: Layout, room: number): number {
  const { shown, widths } = layout;
  const byRoom = usual.find(([from]) => room >= from)?.[1];
  const wide = isCommon(column) ? byRoom?.[column] : ownWidth;
  const width = widths[column] ?? wide ?? leastWidth;
  if (column !== 'strand' || widths.strand !== undefined) return width;
  const others = shown.filter((other) => other !== 'strand' && !isFixed(other));
  const taken = others.reduce((sum, other) => sum + widthOf(other, layout, room), marks + padding);
  return Math.max(width, Math.min(mostStrand, room - taken - gap * shown.length - titleWidth));
}

/** The columns of a row as CSS has them (CSS Grid Layout 1, `grid-template-columns`), after its marks. */
export function templateOf(layout: Layout, room: number): string {
  const tracks = layout.shown.map((column) =>
    isFixed(column) ? 'minmax(120px, 1fr)' : `${widthOf(column, layout, room)}px`,
  );
  return [`${marks}px`, ...tracks].join(' ');
}

/** With a column put in at the end, or taken out. */
export function toggled(layout: Layout, column: Column): Layout {
  if (isFixed(column)) return layout;
  const shown = layout.shown.includes(column)
    ? layout.shown.filter((each) => each !== column)
    : [...layout.shown, column];
  return { ...layout, shown };
}

/** With a column one place to the left (-1) or to the right (1); where there is none it stays. */
export function moved(layout: Layout, column: Column, by: -1 | 1): Layout {
  const from = layout.shown.indexOf(column);
  const to = from + by;
  if (from < 0 || to < 0 || to >= layout.shown.length) return layout;
  const shown = layout.shown.filter((each) => each !== column);
  return { ...layout, shown: [...shown.slice(0, to), column, ...shown.slice(to)] };
}

/** With a column as wide as asked for, within reason; null gives it its usual width again. */
export function resized(layout: Layout, column: Column, width: number | null): Layout {
  const { [column]: _, ...rest } = layout.widths;
  if (width === null) return { ...layout, widths: rest };
  const within = Math.round(Math.min(mostWidth, Math.max(leastWidth, width)));
  return { ...layout, widths: { ...rest, [column]: within } };
}

const isColumn = (column: unknown): column is Column =>
  typeof column === 'string' && (isCommon(column) || isOwn(column));

/** What was kept, as far as it still is a layout: columns that are known, each once, the title among them. */
export function laidOut(kept: unknown): Layout {
  const { shown, widths } = (kept ?? {}) as Partial<Layout>;
  if (!Array.isArray(shown)) return usualLayout;
  const inOrder = [...new Set<unknown>(shown)].filter(isColumn);
  const sized = Object.entries(widths ?? {}).filter(
    ([column, width]) => isColumn(column) && Number.isFinite(width),
  );
  return {
    shown: inOrder.includes('title') ? inOrder : ['title', ...inOrder],
    widths: Object.fromEntries(sized),
  };
}
