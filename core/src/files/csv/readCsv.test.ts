import { joinedReading, partOfReading, type Reading, readingLimits, textOfBlocks } from '../reading.ts';
import { readCsv, tableOf } from './readCsv.ts';

const rows = (text: string): string[][] | undefined =>
  tableOf(text)?.rows.map(({ cells }) => cells.map(({ blocks }) => textOfBlocks(blocks)));
const read = (text: string): Reading => readCsv(new TextEncoder().encode(text)) as Reading;

// RFC 4180, section 2, rules 1 to 7.
test.each<[string, string[][]]>([
  [
    'aaa,bbb,ccc\r\nzzz,yyy,xxx\r\n',
    [
      ['aaa', 'bbb', 'ccc'],
      ['zzz', 'yyy', 'xxx'],
    ],
  ],
  [
    '"aaa","bbb","ccc"\r\nzzz,yyy,xxx',
    [
      ['aaa', 'bbb', 'ccc'],
      ['zzz', 'yyy', 'xxx'],
    ],
  ],
  [
    '"aaa","b\r\nbb","ccc"\r\nzzz,yyy,xxx',
    [
      ['aaa', 'b\r\nbb', 'ccc'],
      ['zzz', 'yyy', 'xxx'],
    ],
  ],
  ['"aaa","b""bb","ccc"', [['aaa', 'b"bb', 'ccc']]],
  [
    'span;limit\n1,5;14',
    [
      ['span', 'limit'],
      ['1,5', '14'],
    ],
  ],
  [
    'a\tb\n1\t2',
    [
      ['a', 'b'],
      ['1', '2'],
    ],
  ],
])('%j is a table', (text, expected) => {
  expect(rows(text)).toEqual(expected);
  expect(tableOf(text)?.rows.map(({ header }) => header)[0]).toBe(true);
});

test('what is no table, or too large for one, is read as lines', () => {
  expect(read('a,"b\nc,d').format).toBe('text');
  expect(read('').format).toBe('text');
  const wide = `${'1,'.repeat(9_999)}1\n`;
  expect(read(wide.repeat(5)).format).toBe('table');
  expect(read(wide.repeat(Math.floor(readingLimits.blocks / 10_000) + 1)).format).toBe('text');
});

test('a long table is read part by part, by its rows', () => {
  const whole = read(`a,b\n${Array.from({ length: 999 }, (_, at) => `${at},x`).join('\n')}`);
  const first = partOfReading(whole, 0, 800);
  const parts = [first];
  for (let { next } = first; next; next = parts.at(-1)?.next ?? null)
    parts.push(partOfReading(whole, next, 800));
  expect(parts.length).toBeGreaterThan(1);
  expect(joinedReading(first, parts)).toMatchObject(whole);
});
