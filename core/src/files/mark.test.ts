import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { strToU8, unzipSync, zipSync } from 'fflate';
import { openDocx, verifyParts } from './docx/package.ts';
import { readDocx } from './docx/readDocx.ts';
import { isRefusal } from '../document/refusal.ts';
import { carriesMark, readMark, type VersionMark, withoutMark, writeMark } from './mark.ts';
import { nearestTo } from './nearness.ts';

const folder = mkdtempSync(join(tmpdir(), 'mark-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const mark: VersionMark = {
  number: 'OP-014 "A&B"',
  label: '4.2',
  versionId: '01a211b2-15bc-729c-a59d-891128a02592',
};
const later: VersionMark = { ...mark, label: '5.0', versionId: '01a211b2-15bc-729c-a59d-891128a02593' };

function pandoc(ending: string, from = 'text'): Uint8Array {
  writeFileSync(
    join(folder, 'text.md'),
    '---\ntitle: Opening the line\nabstract-note: kept\n---\n\nThe line is opened *slowly*.\n',
  );
  const [source, target] = [join(folder, from === 'text' ? 'text.md' : from), join(folder, `out.${ending}`)];
  execFileSync('pandoc', ['-s', '-o', target, source]);
  return readFileSync(target);
}
const names = (bytes: Uint8Array): string[] => Object.keys(unzipSync(bytes));
const without = (bytes: Uint8Array): string =>
  JSON.stringify(withoutMark(bytes)?.map(([name, part]) => [name, Buffer.from(part).toString('base64')]));

/** A minimal workbook (ECMA-376 part 1, 18). */
const xlsx = zipSync({
  '[Content_Types].xml': strToU8(
    '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Override PartName="/docProps/custom.xml" ContentType="application/vnd.openxmlformats-officedocument.custom-properties+xml"/></Types>',
  ),
  '_rels/.rels': strToU8(
    '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId4" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/custom-properties" Target="docProps/custom.xml"/></Relationships>',
  ),
  'docProps/custom.xml': strToU8(
    '<op:Properties xmlns:op="http://schemas.openxmlformats.org/officeDocument/2006/custom-properties" xmlns:vt="http://schemas.openxmlformats.org/officeDocument/2006/docPropsVTypes"><op:property fmtid="{D5CDD505-2E9C-101B-9397-08002B2CF9AE}" pid="2" name="Site"><vt:lpwstr>Crest</vt:lpwstr></op:property></op:Properties>',
  ),
  'xl/workbook.xml': strToU8('<workbook/>'),
});

test.each([
  ['docx', () => pandoc('docx')],
  ['odt', () => pandoc('odt')],
  ['xlsx', () => xlsx],
] as const)('a .%s carries the mark, the newest only, and is the same without it', (ending, make) => {
  const plain = make();
  expect(carriesMark(`a.${ending.toUpperCase()}`)).toBe(true);
  expect(readMark(plain)).toBeNull();
  const marked = writeMark(plain, mark);
  expect(readMark(marked)).toEqual(mark);
  expect(readMark(writeMark(marked, later))).toEqual(later);
  expect(without(marked)).toBe(without(plain));
  expect(without(writeMark(marked, later))).toBe(without(plain));
  // Every part the mark does not stand in keeps its bytes.
  const [before, after] = [unzipSync(plain), unzipSync(marked)];
  const changed = Object.keys(after).filter(
    (name) => Buffer.compare(Buffer.from(after[name] ?? []), Buffer.from(before[name] ?? [])) !== 0,
  );
  for (const name of changed)
    expect(['meta.xml', 'docProps/custom.xml', '[Content_Types].xml', '_rels/.rels']).toContain(name);
  if (ending === 'odt') expect(names(marked)[0]).toBe('mimetype');
});

test('an empty list of properties, as some programs write it, is as good as none', () => {
  writeFileSync(join(folder, 'bare.md'), 'Only text.\n');
  execFileSync('pandoc', ['-o', join(folder, 'bare.docx'), join(folder, 'bare.md')]);
  const plain = readFileSync(join(folder, 'bare.docx'));
  expect(names(plain)).toContain('docProps/custom.xml');
  expect(without(writeMark(plain, mark))).toBe(without(plain));
});

test('a marked .docx is sound, and reads and compares as before', () => {
  const plain = pandoc('docx');
  const marked = writeMark(plain, mark);
  const pack = openDocx(marked);
  expect(isRefusal(pack) ? pack : verifyParts(pack)).toBeNull();
  expect(readDocx(marked)).toEqual(readDocx(plain));
});

test('saved again by a program that writes it anew from its text, the mark is lost; repacked by one that keeps parts, it stays', () => {
  // pandoc writes the time into each file: one is made once.
  const plain = pandoc('docx');
  writeFileSync(join(folder, 'marked.docx'), writeMark(plain, mark));
  // pandoc reads the text and writes a file of its own.
  expect(readMark(pandoc('docx', 'marked.docx'))).toBeNull();
  // A general-purpose zip library unfolds and folds every part again, as office programs do with properties
  // they do not know.
  const repacked = zipSync(
    Object.fromEntries(Object.entries(unzipSync(readFileSync(join(folder, 'marked.docx')))).reverse()),
    { level: 9 },
  );
  expect(readMark(repacked)).toEqual(mark);
  expect(without(repacked)).toBe(without(plain));
});

test('what carries no mark: other files, damaged ones, a property of the same name that says something else', () => {
  expect(carriesMark('a.pdf')).toBe(false);
  for (const bytes of [strToU8('plain text'), strToU8('PK damaged'), zipSync({ 'a.txt': strToU8('x') })]) {
    expect(readMark(bytes)).toBeNull();
    expect(writeMark(bytes, mark)).toBe(bytes);
    expect(withoutMark(bytes)).toBeNull();
  }
  const other = unzipSync(writeMark(xlsx, mark));
  other['docProps/custom.xml'] = strToU8(
    new TextDecoder().decode(other['docProps/custom.xml']).replace(mark.versionId, 'something else'),
  );
  expect(readMark(zipSync(other))).toBeNull();
});

test('of versions with one mark a file is of the one it reads most like, whatever program saved it', () => {
  const saved = (ending: string, words: string): Uint8Array => {
    const [source, target] = [join(folder, 'near.md'), join(folder, `near.${ending}`)];
    writeFileSync(source, words);
    execFileSync('pandoc', ['-o', target, source]);
    return readFileSync(target);
  };
  const [first, second] = [
    'Close the gate.\n\nRing the bell.',
    'Close the gate.\n\nCheck the grip.\n\nRing the bell.',
  ];
  for (const ending of ['docx', 'odt']) {
    const versions = [second, first].map((words) => saved(ending, words));
    const nearest = (words: string): number => nearestTo(saved(ending, words), versions);
    expect(nearest(second.replace('grip', 'grip twice'))).toBe(0);
    expect(nearest(first.replace('bell', 'bell twice'))).toBe(1);
    // Words alone would not tell a paragraph that was moved.
    const moved = saved(ending, 'Ring the bell.\n\nClose the gate.');
    expect(nearestTo(saved(ending, first), [moved, versions[1] as Uint8Array])).toBe(1);
    // Formatting does not count: as near to both it is the newer one.
    const bold = saved(ending, first.replace('Close', '**Close**'));
    expect(nearestTo(bold, [versions[1] as Uint8Array, saved(ending, first)])).toBe(0);
  }
});
