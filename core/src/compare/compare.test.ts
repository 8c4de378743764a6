import fc from 'fast-check';
import {
  type Block,
  countWords,
  type Reading,
  type Run,
  type TextBlock,
  textOfRuns,
} from '../files/reading.ts';
import { compare, type ComparedBlock, type ComparedText, type Comparison } from './compare.ts';
import { tokenize } from './tokens.ts';
import { compareWords } from './words.ts';

const p = (text: string, more: Partial<TextBlock> = {}): TextBlock => ({
  kind: 'paragraph',
  level: 0,
  runs: text ? [{ text }] : [],
  ...more,
});
const table = (...rows: string[][]): Block => ({
  kind: 'table',
  rows: rows.map((cells, index) => ({
    header: index === 0,
    cells: cells.map((cell) => ({ blocks: [p(cell)], columns: 1, rows: 1 })),
  })),
});
const reading = (blocks: Block[], more: Partial<Reading> = {}): Reading => ({
  format: 'docx',
  blocks,
  margins: [],
  notes: [],
  ...more,
});
const compared = (
  a: Block[],
  b: Block[],
  moreA: Partial<Reading> = {},
  moreB: Partial<Reading> = {},
): Comparison =>
  compare(
    { reading: reading(a, moreA), fields: { title: 'T' } },
    { reading: reading(b, moreB), fields: { title: 'T' } },
  );
const kinds = ({ changes }: Comparison): string[] => changes.map(({ kind, what }) => `${what} ${kind}`);

const long = 'The shift leader reads both anemometers for ten minutes before the line is opened.';

test('the same text has no changes, however its pages fall; items renumber where one came, else that is told', () => {
  const item = (marker: string, text = long): Block => p(text, { kind: 'listItem', marker });
  expect(
    compared([item('1.'), p(long)], [{ kind: 'pageBreak', drawn: true }, item('1.'), p(long)]).changes,
  ).toEqual([]);
  const other = 'Call the valley station before anything else.';
  expect(kinds(compared([item('1.')], [item('1.', other), item('2.')]))).toEqual(['list item inserted']);
  // A list that begins anew, or goes on: every clause behind is another one.
  const { changes } = compared([item('1.'), p(other)], [item('4.'), p(other)]);
  expect(changes).toMatchObject([{ kind: 'restyled', what: 'list item', how: 'number 1. → 4.' }]);
  expect(kinds(compared([p(long)], [{ kind: 'pageBreak' }, p(long)]))).toEqual(['page break inserted']);
});

test('a changed word is one change with its words', () => {
  const { changes, counts } = compared([p(long)], [p(long.replace('both', 'all three'))]);
  expect(changes).toMatchObject([
    {
      kind: 'changed',
      what: 'paragraph',
      before: 'both',
      after: 'all three',
      wordsDeleted: 1,
      wordsInserted: 2,
    },
  ]);
  expect(counts).toMatchObject({ changed: 1, inserted: 0, wordsDeleted: 1, wordsInserted: 2 });
});

test('paragraphs that come, go and move are told apart', () => {
  const other = 'One empty carrier is sent over every span at creeping speed.';
  expect(kinds(compared([p(long)], [p(long), p(other)]))).toEqual(['paragraph inserted']);
  expect(kinds(compared([p(long), p(other)], [p(other)]))).toEqual(['paragraph deleted']);
  expect(
    kinds(
      compared(
        [p(long), p(other), p('The record is kept for five years in the station.')],
        [p(other), p('The record is kept for five years in the station.'), p(long)],
      ),
    ),
  ).toEqual(['paragraph moved']);
});

test('one sentence reworded at its place is a change; two that have nothing in common are not', () => {
  expect(kinds(compared([p('From the valley platform.')], [p('From both platforms.')]))).toEqual([
    'paragraph changed',
  ]);
  expect(kinds(compared([p('From the valley platform.')], [p('Nobody climbs onto a roof.')]))).toEqual([
    'paragraph deleted',
    'paragraph inserted',
  ]);
});

test('a heading made of a paragraph, and a word made bold, are changes of style', () => {
  expect(kinds(compared([p(long)], [p(long, { kind: 'heading', level: 1 })]))).toEqual(['heading restyled']);
  const bold: Run[] = [{ text: 'The shift leader', bold: true }, { text: long.slice(16) }];
  expect(kinds(compared([p(long)], [p('', { runs: bold })]))).toEqual(['paragraph restyled']);
});

test('table cells are compared one by one, rows that come and go are named', () => {
  const before = table(
    ['Span', 'Stop above'],
    ['Valley', '19 m/s'],
    ['Gorge', '17 m/s'],
    ['Crest', '16 m/s'],
  );
  const after = table(
    ['Span', 'Stop above'],
    ['Valley', '18 m/s'],
    ['Crest', '16 m/s'],
    ['Summit', '12 m/s'],
  );
  const { changes } = compared([before], [after]);
  expect(changes).toMatchObject([
    { what: 'table cell', kind: 'changed', before: '19', after: '18' },
    { what: 'table row', kind: 'deleted', before: 'Gorge · 17 m/s' },
    { what: 'table row', kind: 'inserted', after: 'Summit · 12 m/s' },
  ]);
});

test('fields, headers and footers come first, then the body, then the notes', () => {
  const header = (text: string) => ({
    kind: 'header' as const,
    pages: 'default' as const,
    section: 1,
    blocks: [p(text)],
  });
  const footer = (text: string) => ({
    kind: 'footer' as const,
    pages: 'default' as const,
    section: 1,
    blocks: [p(text)],
  });
  const note = (text: string) => ({ number: 1, kind: 'footnote' as const, blocks: [p(text)] });
  const { changes } = compare(
    {
      fields: { title: 'Old title', subject: ['wind'] },
      reading: reading([p('Alpha beta gamma')], {
        margins: [footer('Page one'), header('Version one')],
        notes: [note('Note one here')],
      }),
    },
    {
      fields: { title: 'New title', subject: ['wind'] },
      reading: reading([p('Alpha beta delta')], {
        margins: [header('Version two'), footer('Page two')],
        notes: [note('Note two here')],
      }),
    },
  );
  expect(changes.map(({ where, what }) => [where, what])).toEqual([
    ['field', 'Title'],
    ['header', 'paragraph'],
    ['footer', 'paragraph'],
    ['body', 'paragraph'],
    ['note', 'paragraph'],
  ]);
  expect(changes.map(({ id }) => id)).toEqual([1, 2, 3, 4, 5]);
});

test('a header that only one side has is new or gone', () => {
  const margins = [
    { kind: 'header' as const, pages: 'first' as const, section: 1, blocks: [p('Draft for comment only')] },
  ];
  expect(compared([p(long)], [p(long)], {}, { margins }).changes).toMatchObject([
    { where: 'header', kind: 'inserted' },
  ]);
});

test('pictures that are exchanged are a change, note numbers are not', () => {
  const picture = (width: number): Run => ({
    text: '',
    image: { part: 'a.png', alt: 'grip', width, height: 10, hash: 'one' },
  });
  expect(kinds(compared([p('', { runs: [picture(10)] })], [p('', { runs: [picture(20)] })]))).toEqual([
    'paragraph changed',
  ]);
  expect(
    compared(
      [p('', { runs: [{ text: long }, { text: '1', note: 1 }] })],
      [p('', { runs: [{ text: long }, { text: '2', note: 2 }] })],
    ).changes,
  ).toEqual([]);
});

const texts = (blocks: readonly ComparedBlock[], side: 'older' | 'newer'): string[] => {
  const gone = side === 'older' ? 'inserted' : 'deleted';
  return blocks
    .filter((block): block is ComparedText => 'runs' in block)
    .filter(
      ({ status }) => !(side === 'older' ? ['inserted', 'moved'] : ['deleted', 'movedAway']).includes(status),
    )
    .map(({ runs }) => textOfRuns(runs.filter(({ status }) => status !== gone)));
};

const sentence = fc
  .array(
    fc.constantFrom(
      'wind',
      'line',
      'tower',
      'opens',
      'closes',
      'the',
      'crew',
      'reads',
      '19',
      'm/s',
      'm/s,',
      'Überfahrt',
      '雪',
    ),
    { minLength: 1, maxLength: 12 },
  )
  .map((list) => list.join(' '));

test('both sides can be read back from the comparison of any two texts', () => {
  fc.assert(
    fc.property(fc.array(sentence, { maxLength: 12 }), fc.array(sentence, { maxLength: 12 }), (a, b) => {
      const body = compared(
        a.map((text) => p(text)),
        b.map((text) => p(text)),
      ).parts.find(({ where }) => where === 'body');
      const blocks = body?.blocks ?? [];
      expect(texts(blocks, 'newer')).toEqual(b);
      expect(texts(blocks, 'older')).toEqual(a);
    }),
    { numRuns: 80 },
  );
});

test('words joined again are the text, and comparing words loses none', () => {
  fc.assert(
    fc.property(
      fc.string({ unit: 'grapheme', maxLength: 40 }),
      fc.string({ unit: 'grapheme', maxLength: 40 }),
      (a, b) => {
        expect(tokenize(a).join('')).toBe(a);
        const { runs } = compareWords([{ text: a }], [{ text: b }]);
        const side = (gone: string): string =>
          runs
            .filter(({ status }) => status !== gone)
            .map(({ text }) => text)
            .join('');
        expect([side('inserted'), side('deleted')]).toEqual([a, b]);
      },
    ),
  );
});

test('a passage put in reads as one, not as pieces around a kept space', () => {
  const { runs } = compareWords(
    [{ text: 'Tower 3 and Tower 6' }],
    [{ text: 'Tower 3, Tower 6 and Tower 8' }],
  );
  expect(runs.map(({ status, text }) => [status, text])).toEqual([
    ['same', 'Tower 3'],
    ['inserted', ', Tower 6'],
    ['same', ' and Tower '],
    ['deleted', '6'],
    ['inserted', '8'],
  ]);
});

test('a whole replaced phrase reads as one replacement, not word by word', () => {
  const { runs } = compareWords([{ text: 'half of the speed' }], [{ text: 'one third again speed' }]);
  expect(runs.map(({ status, text }) => [status, text])).toEqual([
    ['deleted', 'half of the'],
    ['inserted', 'one third again'],
    ['same', ' speed'],
  ]);
});

test('eight words are eight words, in a changed block, in a new one, in a table row, and in the whole text', () => {
  const eight = "the rope's 3.5 kN wind-limit, tower 4, isn't";
  expect(countWords(eight)).toBe(8);
  const inserted = (a: Block[], b: Block[]): number => compared(a, b).counts.wordsInserted;
  const today = 'Today the line is opened by the shift leader once';
  expect(inserted([p(today)], [p(`${today} ${eight}`)])).toBe(8);
  expect(inserted([p('Today')], [p('Today'), p(eight)])).toBe(8);
  expect(inserted([table(['a'], ['b'])], [table(['a'], [eight], ['b'])])).toBe(8);
});

test('an item that got another number has its own in the older version', () => {
  const item = (marker: string, text: string) => p(text, { kind: 'listItem', list: 'number', marker });
  const { parts } = compared(
    [item('1.', 'Read the mast.'), item('2.', 'Write it down.')],
    [item('1.', 'Read the mast.'), item('2.', 'Call the control room now.'), item('3.', 'Write it down.')],
  );
  const blocks = parts.find(({ where }) => where === 'body')?.blocks as ComparedText[];
  expect(blocks.map(({ status, marker, markerWas }) => [status, marker, markerWas])).toEqual([
    ['same', '1.', undefined],
    ['inserted', '2.', undefined],
    ['same', '3.', '2.'],
  ]);
});

test('what prints and is in no block is told where it differs, came or went', () => {
  const with_ = (...beside: [string, string][]): Partial<Reading> => ({
    beside: beside.map(([what, hash]) => ({ what, hash })),
  });
  const told = (a: Partial<Reading>, b: Partial<Reading>): string[] =>
    compared([p(long)], [p(long)], a, b).changes.map(({ where, what, after }) => `${where} ${what} ${after}`);
  const chart = with_(['chart', 'a'], ['style Title', 'a']);
  expect(told(chart, chart)).toEqual([]);
  expect(told(chart, with_(['chart', 'b'], ['style Title', 'b']))).toEqual([
    'field chart differs, cannot be shown here',
    'field style Title differs, cannot be shown here',
  ]);
  // A style that only one of them uses is told where it is used.
  expect(told(with_(['style Title', 'a']), with_(['macro', 'a']))).toEqual([
    'field macro is new, cannot be shown here',
  ]);
  expect(told(with_(['macro', 'a'], ['x', 'a']), with_(['x', 'a']))).toEqual([
    'field macro is gone, cannot be shown here',
  ]);
  // Nothing is known of a file of another kind.
  expect(told(chart, {})).toEqual([]);
});

test('how a paragraph and a table stand beside what is shown is told', () => {
  const { changes } = compared([p(long, { rest: 'a' })], [p(long, { rest: 'b' })]);
  expect(changes).toMatchObject([
    { kind: 'restyled', what: 'paragraph', how: 'spacing, borders, tabs or fonts, not shown here' },
  ]);
  const rows = [
    ['Span', 'Stop above'],
    ['Valley', '19 m/s'],
  ];
  const looking = (rest: string): Block => ({ ...table(...rows), rest }) as Block;
  expect(compared([looking('a')], [looking('b')]).changes).toMatchObject([
    { kind: 'restyled', what: 'table', how: 'style, borders or widths, not shown here' },
  ]);
  expect(compared([looking('a')], [looking('a')]).changes).toEqual([]);
});
