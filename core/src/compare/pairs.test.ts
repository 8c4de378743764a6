import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import { isRefusal, type Refusal } from '../document/refusal.ts';
import { readDocx } from '../files/docx/readDocx.ts';
import { layoutOf, mediaTypeOf } from '../files/fileType.ts';
import { type Block, type Reading, type Run, textOfRuns } from '../files/reading.ts';
import { compare, type ComparedBlock, type Comparison } from './compare.ts';

const folder = join(import.meta.dirname ?? 'core/src/compare', '../testing/pairs');
const readingOf = (name: string): Reading => {
  const reading = readDocx(readFileSync(join(folder, name)));
  if (isRefusal(reading)) throw new Error(`${name}: ${reading.reason}`);
  return reading;
};
const compared = (older: Reading, newer: Reading): Comparison =>
  compare({ reading: older, fields: { title: '' } }, { reading: newer, fields: { title: '' } });

/** What a person is told of each pair: kind, place and words. */
const told: Record<string, string[]> = {
  'F01-headers': [
    'changed header paragraph: 3 … 01 > 4 … 02',
    'changed header paragraph: 1 > 2',
    'changed footer table cell: Holm > Sandoval',
  ],
  'F02-tables': [
    'changed body table cell: 14,0 > 12,0',
    'changed body table cell: 750 > 700',
    'changed body table cell: 1.25 > 1.35',
  ],
  'F03-lists': ['inserted body list item:  > Call the station'],
  'F06-tracked': [],
  'F07-textbox': ['changed body paragraph: HIGH > LOW'],
  'F08-links': [
    'restyled body paragraph (link https://example.org/old → https://example.org/new, link #bm1 → #bm2)',
  ],
  'F09-fields': [
    'changed body paragraph: 01 … REFRESULT1 > 02 … REFRESULT2',
    'changed body paragraph: FILLED1 > FILLED2',
    'changed body paragraph: ☐ > ☒',
    'changed body paragraph: DROPNORTH > DROPSOUTH',
  ],
  'F11-image': ['changed body paragraph: [picture] > [picture]'],
  'F12-equation': ['changed body paragraph: 2 > 4'],
  'F13-scripts': [
    'changed body paragraph: 17 > 15',
    'changed body paragraph: שבעה > חמישה',
    'changed body paragraph: 七 > 五',
    'changed body paragraph:  > twice',
    'changed body paragraph: ความเร็วลมสูงสุด > ความเร็วลมไม่สูงสุด',
  ],
  'F14-breaks': ['inserted body page break:  > '],
  'F15-controls': [
    'changed body paragraph: 1 > 2',
    'changed body paragraph: ☐ > ☒',
    'changed body paragraph: ☐ > ☑',
    'changed body paragraph: ≥ > ≤',
  ],
  'F16-hidden': ['changed body paragraph: 1 > 2'],
  'F18-format': [
    'restyled body paragraph (colour none → c80000)',
    'restyled body paragraph (size none → 22 pt)',
    'restyled body paragraph (highlighting none → yellow)',
    'restyled body paragraph (bold)',
    'restyled body paragraph (bold, underlined)',
    'restyled body paragraph (alignment none → right)',
    'restyled body paragraph (indent none → 113.4 pt)',
    'restyled body paragraph (italic, colour none → 000000)',
    'restyled body list item (list number → bullet)',
    'restyled body paragraph (struck through)',
  ],
  'F20-columns': [
    'inserted body table cell:  > Gust',
    'inserted body table cell:  > 20',
    'inserted body table cell:  > 21',
    'inserted body table cell:  > 22',
  ],
  'N03-numbering-restart': [
    'restyled body list item (number 2 → 3)',
    'restyled body list item (number 2.1 → 3.1)',
  ],
  'N24-ole-workbook': ['changed field embedded object:  > differs, cannot be shown here'],
  'N29-chart': ['changed field chart:  > differs, cannot be shown here'],
  'F21-moves': [
    'moved body table row: Alpha · 12 m/s · same remark here for all > Alpha · 12 m/s · same remark here for all',
    'deleted body paragraph: Moved paragraph about the ice on the upper mast and what to do. > ',
    'inserted body paragraph:  > Moved paragraph about the ice on the upper mast and what must be done.',
  ],
};
const names = readdirSync(folder).flatMap((name) => /^(.*)\.1\.docx$/.exec(name)?.[1] ?? []);

test.each(['N18-macro.1.docm', 'N19-template.1.dotx'])('%s is read like a .docx', (name) => {
  expect(layoutOf(mediaTypeOf(name))).toBe('docx');
  expect(readingOf(name).blocks.length).toBeGreaterThan(0);
});

/** A package as one XML file: its parts one after another, those that are no XML in base64. */
function flat(name: string): Uint8Array {
  const parts = Object.entries(unzipSync(readFileSync(join(folder, name)))).map(([part, bytes]) => {
    if (!/\.(xml|rels)$/.test(part)) {
      const data = Buffer.from(bytes).toString('base64');
      return `<pkg:part pkg:name="/${part}"><pkg:binaryData>${data}</pkg:binaryData></pkg:part>`;
    }
    const xml = new TextDecoder().decode(bytes).replace(/^\uFEFF?<\?xml[^>]*\?>/, '');
    return `<pkg:part pkg:name="/${part}"><pkg:xmlData>${xml}</pkg:xmlData></pkg:part>`;
  });
  const head = '<?xml version="1.0"?><?mso-application progid="Word.Document"?>';
  const namespace = 'http://schemas.microsoft.com/office/2006/xmlPackage';
  return Buffer.from(`${head}<pkg:package xmlns:pkg="${namespace}">${parts.join('')}</pkg:package>`);
}

test.each(names)('%s reads the same as one XML file', (name) => {
  expect(layoutOf(mediaTypeOf('flat.xml'))).toBe('docx');
  // What prints beside the text is known by its bytes, which lack a line here.
  const text = (reading: Reading | Refusal) => ({ ...reading, beside: undefined });
  expect(text(readDocx(flat(`${name}.1.docx`)))).toEqual(text(readingOf(`${name}.1.docx`)));
});

test('every pair has its place here', () => {
  expect(names.sort()).toEqual(Object.keys(told).sort());
});

test.each(names)('%s: each difference is told, and no other', (name) => {
  const { changes } = compared(readingOf(`${name}.1.docx`), readingOf(`${name}.2.docx`));
  const lines = changes.map(({ kind, where, what, before, after, how }) =>
    kind === 'restyled'
      ? `${kind} ${where} ${what} (${how})`
      : `${kind} ${where} ${what}: ${before} > ${after}`,
  );
  expect(lines).toEqual(told[name]);
});

/** A version's words as they stand, part by part: a line a block, its cells in brackets. */
function linesOf(blocks: readonly Block[]): string[] {
  return blocks.flatMap((block): string[] => {
    if (block.kind === 'pageBreak') return block.drawn ? [] : ['page break'];
    if (block.kind === 'table')
      return block.rows.map(({ cells }) =>
        cells.map((cell) => `[${linesOf(cell.blocks).join(' / ')}]`).join(''),
      );
    return [wordsOf(block.runs)];
  });
}
const wordsOf = (runs: readonly Run[]): string =>
  runs.map((run) => (run.image ? `<${run.image.hash}>` : textOfRuns([run]))).join('');

/** The same of one side of a comparison. */
function sideOf(blocks: readonly ComparedBlock[], side: 'older' | 'newer'): string[] {
  const [other, awayFrom] = side === 'older' ? ['inserted', 'moved'] : ['deleted', 'movedAway'];
  const isHere = ({ status }: { status: string }): boolean => status !== other && status !== awayFrom;
  return blocks.filter(isHere).flatMap((block): string[] => {
    if (block.kind === 'pageBreak') return ['page break'];
    if (block.kind === 'table')
      return block.rows.filter(isHere).map(({ cells }) =>
        cells
          .filter(isHere)
          .map((cell) => `[${sideOf(cell.blocks, side).join(' / ')}]`)
          .join(''),
      );
    return [wordsOf(block.runs.filter(isHere))];
  });
}

test.each(names)(
  '%s: the comparison holds both versions, each in its own order, in both directions',
  (name) => {
    const pair = [readingOf(`${name}.1.docx`), readingOf(`${name}.2.docx`)] as const;
    for (const [older, newer] of [pair, [pair[1], pair[0]] as const]) {
      const { parts } = compared(older, newer);
      const body = parts.find(({ where }) => where === 'body')?.blocks ?? [];
      expect(sideOf(body, 'older')).toEqual(linesOf(older.blocks));
      expect(sideOf(body, 'newer')).toEqual(linesOf(newer.blocks));
      const margins = parts
        .filter(({ where }) => where === 'header' || where === 'footer')
        .flatMap(({ blocks }) => blocks);
      expect(sideOf(margins, 'older').sort()).toEqual(
        older.margins.flatMap(({ blocks }) => linesOf(blocks)).sort(),
      );
    }
  },
);

test('lists of one level stand in one another as they are drawn, with their own numbers', () => {
  const items = readingOf('F03-lists.2.docx').blocks.flatMap((block) =>
    block.kind === 'listItem' ? [`${block.level} ${block.marker ?? ''} ${textOfRuns(block.runs)}`] : [],
  );
  expect(items).toEqual([
    '0 1. Call the station',
    '0 2. Close the valve',
    '0 3. Wait ten minutes',
    '1 1. Read the gauge',
    '1 2. Write it down',
    '0 4. Open the valve',
    '0 • tools',
  ]);
});
