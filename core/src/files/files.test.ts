import fc from 'fast-check';
import { strToU8, zipSync } from 'fflate';
import { cleanFileName, mediaTypeOf, readerOf } from './fileType.ts';
import { isRefusal } from '../document/refusal.ts';
import { layOut, surelyLaidOut, tooLargeToLayOut } from './layOut.ts';
import { readText } from './text/readText.ts';
import {
  type Block,
  joinedReading,
  partOfReading,
  type Reading,
  type ReadingPart,
  readingLimits,
  sizeOfReading,
  textOfReading,
} from './reading.ts';
import { crc32, listZip } from './zip/readZip.ts';

test('CRC-32 of "123456789" is CBF43926 (the check value of the CRC catalogue, from memory)', () => {
  expect(crc32(strToU8('123456789')).toString(16)).toBe('cbf43926');
});

test.each([
  ['OP-014 Opening.docx', 'OP-014 Opening.docx'],
  ['../../etc/passwd', 'passwd'],
  ['C:\\Users\\me\\plan.docx', 'plan.docx'],
  ['a\u0000b\u0007c\n.docx', 'abc.docx'],
  ['rescue 🚡 plan 雪.docx', 'rescue 🚡 plan 雪.docx'],
  ['gpj.\u202excod.docx', 'gpj.xcod.docx'],
  ['..', 'document'],
  ['', 'document'],
  ['.docx', 'docx'],
  ['what? "this": <one>|*.docx', 'what- -this-- -one---.docx'],
])('%j is cleaned to %j', (given, cleaned) => {
  expect(cleanFileName(given)).toBe(cleaned);
});

test('a name of 300 characters is shortened and keeps its ending', () => {
  const name = cleanFileName(`${'x'.repeat(300)}.docx`);
  expect([...name].length).toBe(120);
  expect(name.endsWith('.docx')).toBe(true);
});

test('any name becomes a harmless one, and cleaning twice changes nothing', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'binary', maxLength: 400 }), (given) => {
      const name = cleanFileName(given);
      expect(name).not.toMatch(/[/\\<>:"|?*\p{Cc}]|^\.|^\s|^$/u);
      expect([...name].length).toBeLessThanOrEqual(120);
      expect(cleanFileName(name)).toBe(name);
    }),
    { numRuns: 200 },
  );
});

test('types go by the ending, whatever its case', () => {
  expect(mediaTypeOf('A.DOCX')).toMatch(/wordprocessingml/);
  expect(readerOf(mediaTypeOf('a.docx'))).toBe('docx');
  expect(readerOf(mediaTypeOf('a.md'))).toBe('text');
  expect(mediaTypeOf('a.exe')).toBe('application/octet-stream');
  expect(readerOf(mediaTypeOf('a.exe'))).toBeNull();
});

test('text files are read line by line, whatever their line ends and byte order mark', () => {
  expect(textOfReading(readText(strToU8('\ufeffone\r\n\r\ntwo\rthree\n')) as Reading)).toBe(
    'one\n\ntwo\nthree',
  );
});

test('a text of more lines or characters than are read in a page is refused with what is too much', () => {
  const most = readText(strToU8('x\n'.repeat(readingLimits.blocks)));
  expect(most).toMatchObject({ format: 'text' });
  expect(readText(strToU8('x\n'.repeat(readingLimits.blocks + 1)))).toMatchObject({
    code: 'too-complex',
    facts: { what: 'paragraphs', most: readingLimits.blocks },
  });
  expect(readText(new Uint8Array(readingLimits.characters + 1).fill(120))).toMatchObject({
    code: 'too-complex',
    facts: { what: 'characters' },
  });
});

test('the parts of a reading are the whole, each within its limit unless one block is larger, with the notes it refers to', () => {
  const run = fc.record({ text: fc.string({ maxLength: 5 }) }, { requiredKeys: ['text'] });
  const paragraph: fc.Arbitrary<Block> = fc
    .array(run, { maxLength: 3 })
    .map((runs) => ({ kind: 'paragraph', level: 0, runs }));
  const table: fc.Arbitrary<Block> = fc
    .array(fc.array(fc.array(paragraph, { maxLength: 3 }), { maxLength: 3 }), { maxLength: 3 })
    .map((rows) => ({
      kind: 'table',
      rows: rows.map((cells) => ({
        header: false,
        cells: cells.map((blocks) => ({ columns: 1, rows: 1, blocks })),
      })),
    }));
  fc.assert(
    fc.property(
      fc.array(fc.oneof(paragraph, table), { maxLength: 30 }),
      fc.integer({ min: 1, max: 20 }),
      (blocks, limit) => {
        const noted = blocks.map((block, index): Block =>
          block.kind === 'paragraph'
            ? { ...block, runs: [...block.runs, { text: '', note: index }, { text: '', comment: index }] }
            : block,
        );
        const notes = noted.flatMap((block, number) =>
          block.kind === 'paragraph' ? [{ number, kind: 'footnote' as const, blocks: [] }] : [],
        );
        const comments = notes.map(({ number }) => ({ number, author: '', at: null, blocks: [] }));
        const whole: Reading = { format: 'docx', blocks: noted, margins: [], notes, comments };
        const parts = [];
        for (let from: number | null = 0; from !== null;) {
          const part = partOfReading(whole, from, limit);
          parts.push(part);
          from = part.next;
        }
        expect(joinedReading(parts[0] as ReadingPart, parts)).toMatchObject(whole);
        for (const part of parts) {
          expect(part.total).toBe(noted.length);
          const last = { ...part, notes: [], blocks: part.blocks.slice(0, -1) };
          expect(sizeOfReading(last).blocks).toBeLessThan(limit);
        }
      },
    ),
    { numRuns: 200 },
  );
});

test('what a page can hold is told by the facts of a file where these are enough', () => {
  // The words of a .docx are counted where it is read, and nowhere else.
  expect(surelyLaidOut('docx', { size: 20_000, words: 3000 })).toBe(true);
  expect(surelyLaidOut('docx', { size: 20_000, words: null })).toBe(false);
  expect(surelyLaidOut('csv', { size: 60_000, words: 1 })).toBe(true);
  expect(surelyLaidOut('csv', { size: 60_001, words: 1 })).toBe(false);
  const lines = (count: number) => layOut(Buffer.from('\n'.repeat(count)), 'text');
  expect([isRefusal(lines(60_000)), isRefusal(lines(60_001))]).toEqual([false, true]);
  expect(tooLargeToLayOut('markdown', 48_000_001)).toMatchObject({ code: 'too-complex' });
  expect(tooLargeToLayOut('docx', 48_000_001)).toBeNull();
});

describe('archives that are none of a document (PKWARE APPNOTE 6.3.x, 4.3.12, 4.3.16, 4.4.1.4)', () => {
  /** An archive whose list has one entry so many times, each under a name of its own: their bytes overlap. */
  function overlapping(bytes: number, times: number): Uint8Array {
    const archive = Buffer.from(zipSync({ a0000: new Uint8Array(bytes) }));
    const start = archive.readUInt32LE(archive.length - 22 + 16);
    const entry = archive.subarray(start, archive.length - 22);
    const list = Array.from({ length: times }, (_, index) => {
      const one = Buffer.from(entry);
      one.write(`a${String(index).padStart(4, '0')}`, 46, 'latin1');
      return one;
    });
    const end = Buffer.from(archive.subarray(archive.length - 22));
    end.writeUInt16LE(times, 8);
    end.writeUInt16LE(times, 10);
    end.writeUInt32LE(entry.length * times, 12);
    return Buffer.concat([archive.subarray(0, start), ...list, end]);
  }
  const refusedWith = (archive: Uint8Array): string => {
    const list = listZip(archive);
    return isRefusal(list) ? list.code : `${list.length} entries`;
  };

  test('entries that share their bytes unfold to no more than others', () => {
    expect(refusedWith(overlapping(1 << 20, 512))).toBe('512 entries');
    expect(refusedWith(overlapping(1 << 20, 513))).toBe('unfolds-too-large');
    expect(refusedWith(overlapping(1, 10_001))).toBe('unfolds-too-large');
  });

  test.each([
    ['how many there are', 10, 2],
    ['where their list begins', 16, 4],
  ])('the zip64 form, told by %s, is refused', (_, at, bytes) => {
    const archive = Buffer.from(zipSync({ a: new Uint8Array(10) }));
    archive.fill(0xff, archive.length - 22 + at, archive.length - 22 + at + bytes);
    expect(refusedWith(archive)).toBe('unreadable-file');
  });

  test('an entry of the zip64 form, told by its size, is refused', () => {
    const archive = Buffer.from(zipSync({ a: new Uint8Array(10) }));
    const start = archive.readUInt32LE(archive.length - 22 + 16);
    archive.fill(0xff, start + 24, start + 28);
    expect(refusedWith(archive)).toBe('unfolds-too-large');
  });
});
