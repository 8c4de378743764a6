import { strToU8, zipSync } from 'fflate';
import { isRefusal } from '../../document/refusal.ts';
import { readingLimits } from '../reading.ts';
import { readDocx } from './readDocx.ts';

const main = 'http://schemas.openxmlformats.org/wordprocessingml/2006/main';
const types = 'http://schemas.openxmlformats.org/package/2006/content-types';
const relations = 'http://schemas.openxmlformats.org/package/2006/relationships';
const office = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
const kind = 'application/vnd.openxmlformats-officedocument.wordprocessingml';

/** A package with this in its body, and with a header and comments (ECMA-376 part 1, 11.3). */
function docx(body: string, { header = '', comments = '' } = {}): Uint8Array {
  const part = (name: string, inside: string): Uint8Array =>
    strToU8(`<w:${name} xmlns:w="${main}" xmlns:r="${office}">${inside}</w:${name}>`);
  const named = ['document', 'header', 'comments'].map(
    (name) =>
      `<Override PartName="/word/${name}.xml" ContentType="${kind}.${name}${name === 'document' ? '.main' : ''}+xml"/>`,
  );
  return zipSync({
    '[Content_Types].xml': strToU8(
      `<Types xmlns="${types}"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>${named.join('')}</Types>`,
    ),
    '_rels/.rels': strToU8(
      `<Relationships xmlns="${relations}"><Relationship Id="r" Type="${office}/officeDocument" Target="word/document.xml"/></Relationships>`,
    ),
    'word/_rels/document.xml.rels': strToU8(
      `<Relationships xmlns="${relations}"><Relationship Id="h" Type="${office}/header" Target="header.xml"/><Relationship Id="c" Type="${office}/comments" Target="comments.xml"/></Relationships>`,
    ),
    'word/document.xml': part('document', `<w:body>${body}</w:body>`),
    'word/header.xml': part('hdr', header),
    'word/comments.xml': part('comments', comments),
  });
}
const codeOf = (bytes: Uint8Array): string | number => {
  const reading = readDocx(bytes);
  return isRefusal(reading) ? reading.code : reading.blocks.length;
};
const paragraph = (text: string, properties = ''): string =>
  `<w:p>${properties}<w:r><w:t>${text}</w:t></w:r></w:p>`;

test('the first thing that is refused ends the reading: what follows is not told of', () => {
  const deep = `${'<w:sdt><w:sdtContent>'.repeat(50_000)}<not-closed`;
  const refusal = readDocx(docx(deep));
  expect(refusal).toMatchObject({ code: 'unreadable-file' });
  expect(JSON.stringify(refusal)).toContain('nested more than 400 deep');
});

test('a small file that unfolds to more than is read is refused as soon as that is known', () => {
  expect(codeOf(docx('<w:p/>'.repeat(readingLimits.blocks)))).toBe(readingLimits.blocks);
  expect(codeOf(docx('<w:p/>'.repeat(readingLimits.blocks + 1)))).toBe('too-complex');
  const table = '<w:tbl><w:tr><w:tc><w:p/></w:tc></w:tr></w:tbl>';
  expect(codeOf(docx(table.repeat(readingLimits.blocks + 1)))).toBe('too-complex');
  // One comment that is meant at many places is read no more often than there is room.
  const comment = `<w:comment w:id="1">${paragraph('Remark').repeat(1000)}</w:comment>`;
  const marks = '<w:r><w:commentReference w:id="1"/></w:r>'.repeat(2000);
  expect([1, 'too-complex']).toContain(codeOf(docx(`<w:p>${marks}</w:p>`, { comments: comment })));
});

test('a header that every section refers to is read once', () => {
  const section = `<w:p><w:pPr><w:sectPr><w:headerReference w:type="default" r:id="h"/></w:sectPr></w:pPr></w:p>`;
  const reading = readDocx(docx(section.repeat(500), { header: paragraph('Above').repeat(50) }));
  if (isRefusal(reading)) throw new Error(reading.reason);
  expect(reading.margins).toHaveLength(500);
  expect(new Set(reading.margins.map(({ blocks }) => blocks)).size).toBe(1);
});

test('paragraphs of which each goes on in the next are one, in their order', () => {
  const goes = '<w:pPr><w:rPr><w:del/></w:rPr></w:pPr>';
  const count = 20_000;
  const body = Array.from({ length: count }, (_, index) => paragraph(`${index} `, goes)).join('');
  const reading = readDocx(docx(`${body}${paragraph('end')}`));
  if (isRefusal(reading)) throw new Error(reading.reason);
  const [one, ...others] = reading.blocks;
  expect(others).toEqual([]);
  const text = one?.kind === 'paragraph' ? one.runs.map((run) => run.text).join('') : '';
  expect(text).toBe(`${Array.from({ length: count }, (_, index) => `${index} `).join('')}end`);
});
