import { execFileSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { strToU8, zipSync } from 'fflate';
import { compare } from '../../compare/compare.ts';
import { isRefusal } from '../../document/refusal.ts';
import { openDocx, verifyParts } from './package.ts';
import { readDocx } from './readDocx.ts';
import { listZip } from '../zip/readZip.ts';
import {
  type Block,
  countWords,
  type Reading,
  type TableBlock,
  textOfBlocks,
  textOfReading,
} from '../reading.ts';

const folder = mkdtempSync(join(tmpdir(), 'reading-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

function pandoc(markdown: string, name = 'text'): Uint8Array {
  writeFileSync(join(folder, `${name}.md`), markdown);
  execFileSync('pandoc', ['-f', 'markdown', '-o', join(folder, `${name}.docx`), join(folder, `${name}.md`)]);
  return readFileSync(join(folder, `${name}.docx`));
}
/** What pandoc, reading the same .docx, takes its text to be. */
function pandocText(bytes: Uint8Array): string {
  writeFileSync(join(folder, 'again.docx'), bytes);
  return execFileSync(
    'pandoc',
    ['-f', 'docx', '-t', 'plain', '--standalone', '--wrap=none', join(folder, 'again.docx')],
    { encoding: 'utf8' },
  );
}
/**
 * Words of two letters or more: list marks such as "a." are printed by pandoc and not part of the text here.
 */
const words = (text: string): string[] => text.match(/\p{L}{2,}/gu) ?? [];
function read(bytes: Uint8Array): Reading {
  const reading = readDocx(bytes);
  if (isRefusal(reading)) throw new Error(reading.reason);
  return reading;
}

const markdown = `---
title: Opening the line
---

# Purpose

The line is opened *slowly*, with **care**.^[After the autumn gales.]

## Steps

1. Read the anemometer.
2. Tell the crest.
   a. by radio
   b. by telephone

- Grips
- Ropes
    - haul rope

| Span   | Stop above |
|--------|-----------:|
| Valley | nineteen   |
| Gorge  | seventeen  |

A \`code\` word, H~2~O, a^2^ and a [link](https://example.org/a).
`;

describe('a .docx made by pandoc', () => {
  const bytes = pandoc(markdown);
  const reading = read(bytes);
  const find = (kind: Block['kind']): Block[] => reading.blocks.filter((block) => block.kind === kind);

  test('reads to the same words in the same order as pandoc reads from it', () => {
    expect(words(textOfReading(reading))).toEqual(words(pandocText(bytes)));
  });
  test('has its headings, list items with marks, table and note', () => {
    expect(
      find('heading').map((block) => [(block as { level: number }).level, textOfBlocks([block])]),
    ).toEqual([
      [0, 'Opening the line'],
      [1, 'Purpose'],
      [2, 'Steps'],
    ]);
    expect(
      find('listItem').map((block) => {
        const { marker, level } = block as { marker?: string; level: number };
        return `${level} ${marker} ${textOfBlocks([block])}`;
      }),
    ).toEqual([
      '0 1. Read the anemometer.',
      '0 2. Tell the crest.',
      '1 a. by radio',
      '1 b. by telephone',
      '0 • Grips',
      '0 • Ropes',
      '1 – haul rope',
    ]);
    const table = find('table')[0] as TableBlock;
    expect(
      table.rows.map((row) => [row.header, ...row.cells.map((cell) => textOfBlocks(cell.blocks))]),
    ).toEqual([
      [true, 'Span', 'Stop above'],
      [false, 'Valley', 'nineteen'],
      [false, 'Gorge', 'seventeen'],
    ]);
    expect(reading.notes.map((note) => [note.number, note.kind, textOfBlocks(note.blocks).trim()])).toEqual([
      [1, 'footnote', 'After the autumn gales.'],
    ]);
  });
  test('keeps the style of its runs', () => {
    const runs = reading.blocks.flatMap((block) => (block.kind === 'paragraph' ? block.runs : []));
    expect(runs.find(({ text }) => text === 'slowly')).toMatchObject({ italic: true });
    expect(runs.find(({ text }) => text === 'care')).toMatchObject({ bold: true });
    expect(runs.find(({ text }) => text === 'code')).toMatchObject({ code: true });
    expect(runs.filter(({ vertical, note }) => vertical && note === undefined)).toMatchObject([
      { text: '2', vertical: 'sub' },
      { text: '2', vertical: 'super' },
    ]);
    expect(runs.find(({ text }) => text === 'link')).toMatchObject({ href: 'https://example.org/a' });
    expect(runs.find(({ note }) => note === 1)).toMatchObject({ vertical: 'super' });
  });
});

/** A package made by hand around a body of WordprocessingML. */
function packed(body: string, parts: Record<string, string> = {}): Uint8Array {
  const names =
    'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships" xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main" xmlns:mc="http://schemas.openxmlformats.org/markup-compatibility/2006" xmlns:wps="http://schemas.microsoft.com/office/word/2010/wordprocessingShape"';
  return zipSync(
    Object.fromEntries(
      Object.entries({
        '[Content_Types].xml':
          '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>',
        'word/document.xml': `<w:document ${names}><w:body>${body}</w:body></w:document>`,
        ...Object.fromEntries(
          Object.entries(parts).map(([name, xml]) => [name, xml.replace('NAMES', names)]),
        ),
      }).map(([name, xml]) => [name, strToU8(xml)]),
    ),
    { level: 1 },
  );
}
const run = (text: string): string => `<w:r><w:t xml:space="preserve">${text}</w:t></w:r>`;
const text = (bytes: Uint8Array): string => textOfReading(read(bytes));

describe('WordprocessingML (ECMA-376 part 1)', () => {
  test('tracked changes are read as accepted', () => {
    expect(
      text(
        packed(
          `<w:p>${run('kept ')}<w:ins w:id="1">${run('new')}</w:ins><w:del w:id="2"><w:r><w:delText>old</w:delText></w:r></w:del></w:p>`,
        ),
      ),
    ).toBe('kept new');
  });
  test('who tracked a change, when, and what it takes out is kept beside the text', () => {
    const by = 'w:author="R. Hale" w:date="2026-05-04T09:00:00Z"';
    const reading = read(
      packed(
        `<w:p>${run('kept ')}<w:ins w:id="1" ${by}>${run('new')}${run(' words')}</w:ins><w:del w:id="2" ${by}><w:r><w:delText>old</w:delText></w:r></w:del>${run('.')}</w:p>`,
      ),
    );
    const tracked = { by: 'R. Hale', at: '2026-05-04T09:00:00Z' };
    expect(reading.blocks[0]).toMatchObject({
      runs: [
        { text: 'kept ' },
        { text: 'new words', tracked },
        { text: '', tracked: { ...tracked, gone: 'old' } },
        { text: '.' },
      ],
    });
    expect(reading.pending).toEqual({ inserted: 1, deleted: 1 });
  });
  test('a tracked change is no difference to the same words without it', () => {
    const plain = packed(`<w:p>${run('kept new.')}</w:p>`);
    const waiting = packed(
      `<w:p>${run('kept ')}<w:ins w:id="1">${run('new')}</w:ins><w:del w:id="2"><w:r><w:delText>old</w:delText></w:r></w:del>${run('.')}</w:p>`,
    );
    const side = (bytes: Uint8Array) => ({ reading: read(bytes), fields: { title: '' } });
    const comparison = compare(side(plain), side(waiting));
    expect([comparison.changes, comparison.waiting]).toEqual([[], { older: 0, newer: 2 }]);
  });
  test('what is written from right to left is so, and left and right are its leading and trailing side', () => {
    const paragraph = (properties: string): string =>
      `<w:p><w:pPr>${properties}</w:pPr>${run('14 m/s')}</w:p>`;
    const table = `<w:tbl><w:tblPr><w:bidiVisual/></w:tblPr><w:tr><w:tc>${paragraph('')}</w:tc></w:tr></w:tbl>`;
    expect(
      read(
        packed(
          `${paragraph('<w:bidi/><w:jc w:val="left"/>')}${paragraph('<w:bidi w:val="0"/><w:jc w:val="left"/>')}${table}`,
        ),
      ).blocks,
    ).toMatchObject([
      { direction: 'rtl', align: 'right' },
      { align: 'left' },
      { kind: 'table', direction: 'rtl' },
    ]);
  });
  test('page fields stand for the page, other fields for their last result', () => {
    const field = (code: string, result: string): string =>
      `<w:r><w:fldChar w:fldCharType="begin"/></w:r><w:r><w:instrText> ${code} </w:instrText></w:r><w:r><w:fldChar w:fldCharType="separate"/></w:r>${run(result)}<w:r><w:fldChar w:fldCharType="end"/></w:r>`;
    const [block] = read(
      packed(
        `<w:p>${run('Page ')}${field('PAGE', '3')}${field('NUMPAGES', '9')}${field('TITLE', 'Lifts')}</w:p>`,
      ),
    ).blocks;
    expect(block).toMatchObject({
      runs: [{ text: 'Page ' }, { field: 'page' }, { field: 'pages' }, { text: 'Lifts' }],
    });
  });
  test('headers and footers belong to their pages and sections', () => {
    const reading = read(
      packed(
        '<w:p/><w:sectPr><w:headerReference w:type="first" r:id="h1"/><w:footerReference w:type="default" r:id="f1"/><w:titlePg/></w:sectPr>',
        {
          'word/_rels/document.xml.rels':
            '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="h1" Type="header" Target="header1.xml"/><Relationship Id="f1" Type="footer" Target="footer1.xml"/></Relationships>',
          'word/header1.xml': `<w:hdr NAMES><w:p>${run('Draft')}</w:p></w:hdr>`,
          'word/footer1.xml': `<w:ftr NAMES><w:p>${run('Foot')}</w:p></w:ftr>`,
        },
      ),
    );
    expect(
      reading.margins.map(({ kind, pages, section, blocks }) => [kind, pages, section, textOfBlocks(blocks)]),
    ).toEqual([
      ['header', 'first', 1, 'Draft'],
      ['footer', 'default', 1, 'Foot'],
    ]);
  });
  test('merged cells span their columns and rows', () => {
    const cell = (properties: string, content: string): string =>
      `<w:tc><w:tcPr>${properties}</w:tcPr><w:p>${run(content)}</w:p></w:tc>`;
    const [table] = read(
      packed(
        `<w:tbl><w:tr>${cell('<w:gridSpan w:val="2"/>', 'wide')}${cell('<w:vMerge w:val="restart"/>', 'tall')}</w:tr><w:tr>${cell('', 'a')}${cell('', 'b')}${cell('<w:vMerge/>', '')}</w:tr></w:tbl>`,
      ),
    ).blocks;
    expect(
      (table as TableBlock).rows.map((row) => row.cells.map(({ columns, rows }) => [columns, rows])),
    ).toEqual([
      [
        [2, 1],
        [1, 2],
      ],
      [
        [1, 1],
        [1, 1],
      ],
    ]);
  });
  test('text in content controls and text boxes is not lost, and a box with two forms is read once', () => {
    const box = `<w:r><mc:AlternateContent><mc:Choice><w:drawing><wps:txbx><w:txbxContent><w:p>${run('boxed')}</w:p></w:txbxContent></wps:txbx></w:drawing></mc:Choice><mc:Fallback><w:pict><w:txbxContent><w:p>${run('boxed')}</w:p></w:txbxContent></w:pict></mc:Fallback></mc:AlternateContent></w:r>`;
    expect(
      text(
        packed(
          `<w:sdt><w:sdtContent><w:p>${run('controlled')}</w:p></w:sdtContent></w:sdt><w:p>${run('around')}${box}</w:p>`,
        ),
      ),
    ).toBe('controlled\naround\nboxed');
  });
  test('page breaks part the pages', () => {
    const kinds = read(
      packed(
        `<w:p>${run('one')}<w:r><w:br w:type="page"/></w:r></w:p><w:p>${run('two')}</w:p><w:p><w:pPr><w:pageBreakBefore/></w:pPr>${run('three')}</w:p>`,
      ),
    ).blocks.map(({ kind }) => kind);
    expect(kinds).toEqual(['paragraph', 'pageBreak', 'paragraph', 'pageBreak', 'paragraph']);
  });
  test('a break inside a paragraph parts the words on both sides of it', () => {
    const broken = (type: string): string =>
      text(packed(`<w:p>${run('before')}<w:r><w:br w:type="${type}"/></w:r>${run('after')}</w:p>`));
    expect(['page', 'column', 'textWrapping'].map(broken)).toEqual(Array(3).fill('before\nafter'));
  });
  test('a link that is no web or mail address is text only', () => {
    const rels =
      '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="x" Type="hyperlink" Target="javascript:alert(1)" TargetMode="External"/></Relationships>';
    const [block] = read(
      packed(`<w:p><w:hyperlink r:id="x">${run('press')}</w:hyperlink></w:p>`, {
        'word/_rels/document.xml.rels': rels,
      }),
    ).blocks;
    expect(block).toMatchObject({ runs: [{ text: 'press' }] });
    expect(JSON.stringify(block)).not.toContain('href');
  });
  test('styles based on one another in a circle end', () => {
    const styles =
      '<w:styles NAMES><w:style w:type="paragraph" w:styleId="A"><w:basedOn w:val="B"/></w:style><w:style w:type="paragraph" w:styleId="B"><w:basedOn w:val="A"/></w:style></w:styles>';
    expect(
      text(
        packed(`<w:p><w:pPr><w:pStyle w:val="A"/></w:pPr>${run('round')}</w:p>`, {
          'word/styles.xml': styles,
        }),
      ),
    ).toBe('round');
  });
});

/** The code with which a file is refused, or null where it is taken. */
function refusalOf(bytes: Uint8Array): string | null {
  const pack = openDocx(bytes);
  const refusal = isRefusal(pack) ? pack : verifyParts(pack);
  return refusal?.code ?? null;
}

describe('files that are refused', () => {
  const good = packed(`<w:p>${run('sound '.repeat(400))}</w:p>`);
  test('a sound one is taken', () => {
    expect(refusalOf(good)).toBeNull();
  });
  test.each<[string, Uint8Array, string]>([
    ['empty', new Uint8Array(), 'empty-file'],
    ['plain text under the name', strToU8('This is no package.'), 'not-a-docx'],
    ['another zip', zipSync({ 'hello.txt': strToU8('hello') }), 'not-a-docx'],
    ['cut in half', good.slice(0, good.length / 2), 'unreadable-file'],
    ['cut by a byte', good.slice(0, -1), 'unreadable-file'],
    [
      'with an external entity',
      packed('<w:p/>', {
        'word/styles.xml': '<!DOCTYPE x [<!ENTITY e SYSTEM "file:///etc/passwd">]><x>&e;</x>',
      }),
      'unsafe-xml',
    ],
    [
      'with entities that multiply',
      packed('<w:p/>', {
        'word/styles.xml': '<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><x>&b;</x>',
      }),
      'unsafe-xml',
    ],
    ['with broken XML', packed('<w:p>'), 'unreadable-file'],
    ['nested a thousand deep', packed('<w:p>'.repeat(1000) + '</w:p>'.repeat(1000)), 'unreadable-file'],
    [
      'a bomb of 40 MB of spaces in a few kB',
      packed(`<w:p>${' '.repeat(33 << 20)}</w:p>`),
      'unfolds-too-large',
    ],
  ])('%s', (_, bytes, expected) => {
    expect(refusalOf(bytes)).toBe(expected);
  });

  // What cannot be packed stands in a block as it is (RFC 1951, 3.2.4).
  const noise = new Uint8Array(randomBytes(4000));
  test.each<[string, Uint8Array, number]>([
    ['a bomb of 8 MB is stopped before it unfolds', new Uint8Array(8 << 20), 10],
    ['a small part that says it is smaller', new Uint8Array(8000), 10],
    ['a small part that says it is larger', new Uint8Array(8000), 8001],
    ['a part that says it is larger than any could be', new Uint8Array(8000), 100 << 20],
    ['a part that could not be packed', noise, 10],
  ])('what lies about its size: %s', (_, part, told) => {
    const bytes = zipSync(
      {
        '[Content_Types].xml': strToU8('<Types/>'),
        'word/document.xml': strToU8('<a/>'),
        'word/media/x.bin': part,
      },
      { level: 1 },
    );
    expect(refusalOf(bytes)).toBeNull();
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    // The directory's entry of the last part: its declared size is at offset 24.
    for (let at = bytes.length - 22; at > 0; at -= 1)
      if (view.getUint32(at, true) === 0x02014b50) {
        view.setUint32(at + 24, told, true);
        break;
      }
    expect(refusalOf(bytes)).toBe('unreadable-file');
  });
  test('any byte changed inside a part is found', () => {
    const damaged = Uint8Array.from(good);
    const entries = listZip(good);
    const part = isRefusal(entries) ? undefined : entries.find(({ name }) => name === 'word/document.xml');
    if (!part) throw new Error('the sound file has no main part');
    const middle = part.offset + 30 + part.name.length + Math.floor(part.compressedSize / 2);
    damaged[middle] = (damaged[middle] as number) ^ 0x55;
    expect(refusalOf(damaged)).toBe('unreadable-file');
  });
});

test('a letter changed in a part that is stored as it is, is found by its checksum alone', () => {
  const bytes = zipSync(
    { '[Content_Types].xml': strToU8('<Types/>'), 'word/document.xml': strToU8('<a>limit 19</a>') },
    { level: 0 },
  );
  expect(refusalOf(bytes)).toBeNull();
  const at = Buffer.from(bytes).indexOf('limit 19');
  bytes[at + 6] = '7'.charCodeAt(0);
  expect(refusalOf(bytes)).toBe('unreadable-file');
});

test('words are counted as a person counts them', () => {
  expect(countWords("The crew's 12.5 m/s limit, re-read on 3 May; 雪 ok – yes.")).toBe(13);
});
