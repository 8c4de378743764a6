import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import exceljs from 'exceljs';
import { degrees, PDFDocument } from 'pdf-lib';
import { isRefusal } from '../document/refusal.ts';
import { readAll, writeAll } from '../files/zip/writeZip.ts';
import { Office } from '../testing/office.ts';
import { usualControlNames } from '../rules/controlNames.ts';
import { controlValues, type IssuedFacts, statusWords } from './controlFields.ts';
import { carriesControlFields, issueCopy } from './issueCopy.ts';

const folder = join(import.meta.dirname, '../testing/issue');
const typeface = readFileSync(new URL(import.meta.resolve('dejavu-fonts-ttf/ttf/DejaVuSans.ttf')));
let office: Office;
beforeAll(() => {
  office = new Office();
});
afterAll(() => office.close());

const at = new Date('2026-11-02T06:00:00Z');
const inForce: IssuedFacts = {
  number: 'OP-014',
  version: '2.0',
  state: 'published',
  standing: 'inForce',
  fields: { title: 'Opening & closing <the line>' },
  own: { Tower: 4, 'Drawn by': { person: 'p1' } },
  ownerName: 'T. Brandvold',
  approverNames: ['L. Achterberg', 'A. Kilbride'],
  inForceFrom: at,
  reviewBy: '2027-11-02',
  inForce: '2.0',
  voided: false,
};
const draft: IssuedFacts = {
  ...inForce,
  version: '2.1',
  state: 'draft',
  standing: null,
  approverNames: [],
  inForceFrom: null,
};
const valuesOf = (facts: IssuedFacts) => controlValues(facts, usualControlNames, (id) => `name of ${id}`);
const written = (facts: IssuedFacts) => ({ control: valuesOf(facts), typeface });

async function issue(bytes: Uint8Array, name: string, facts: IssuedFacts): Promise<Uint8Array> {
  const issued = await issueCopy(bytes, name, written(facts));
  if (isRefusal(issued)) throw new Error(issued.reason);
  return issued;
}

const user = (name: string): string => `<text:user-defined text:name="${name}">unset</text:user-defined>`;
/** A text with user-defined fields in its header, footer and body, for the suite to save as its own. */
const flatText = `<?xml version="1.0" encoding="UTF-8"?>
<office:document xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0"
  xmlns:style="urn:oasis:names:tc:opendocument:xmlns:style:1.0"
  xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"
  xmlns:fo="urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0"
  xmlns:meta="urn:oasis:names:tc:opendocument:xmlns:meta:1.0"
  office:version="1.3" office:mimetype="application/vnd.oasis.opendocument.text">
  <office:meta>${[...Object.values(usualControlNames), 'Tower', 'Client']
    .map(
      (name) => `<meta:user-defined meta:name="${name}" meta:value-type="string">unset</meta:user-defined>`,
    )
    .join('')}</office:meta>
  <office:automatic-styles><style:page-layout style:name="L1"><style:page-layout-properties
    fo:page-width="21cm" fo:page-height="29.7cm"/><style:header-style/><style:footer-style/></style:page-layout>
  </office:automatic-styles>
  <office:master-styles><style:master-page style:name="Standard" style:page-layout-name="L1">
    <style:header><text:p>Head ${user('Document number')}, ${user('Document title')}.</text:p></style:header>
    <style:footer><text:p>Foot ${user('Document version')}, ${user('Document status')}.</text:p></style:footer>
  </style:master-page></office:master-styles>
  <office:body><office:text>
    <text:p>Issued ${user('Issue date')}, review ${user('Review date')}, by ${user('Document owner')}.</text:p>
    <text:p>Approved by ${user('Document approvers')}; tower ${user('Tower')}; for ${user('Client')}.</text:p>
  </office:text></office:body></office:document>`;
/** What the suite reads in files, all in one run: their bodies, headers and footers. */
const readInSuite = (files: readonly Uint8Array[], form: string): string[] =>
  office.converted(files, form, 'fodt').map((bytes) =>
    new TextDecoder()
      .decode(bytes)
      .replace(/<[^>]*>/g, '')
      .replace(/&lt;/g, '<')
      .replace(/&gt;/g, '>')
      .replace(/&amp;/g, '&')
      .replace(/\s+/g, ' '),
  );

test.each(['docx', 'odt'] as const)(
  'fields of a .%s saved by an office suite carry the values in header, footer and body, and it opens there',
  async (form) => {
    const [made = new Uint8Array()] = office.converted([flatText], 'fodt', form);
    const kept = made.slice();
    const issued = await issue(made, `a.${form}`, inForce);
    const asDraft = await issue(made, `a.${form}`, draft);
    const [told, drafted] = readInSuite([issued, asDraft], form);
    expect(told).toContain('Head OP-014, Opening & closing <the line>.');
    expect(told).toContain('Foot 2.0, In force.');
    expect(told).toContain('Issued 2026-11-02, review 2027-11-02, by T. Brandvold.');
    // What nobody named stays.
    expect(told).toContain('Approved by L. Achterberg, A. Kilbride; tower 4; for unset.');
    expect(drafted).toContain('Foot 2.1, Draft.');
    expect(drafted).toContain('Issued –,');
    expect(made).toEqual(kept);
  },
);

const text = (words: string): string => `<w:r><w:t xml:space="preserve">${words}</w:t></w:r>`;
const sign = (type: string): string => `<w:r><w:fldChar w:fldCharType="${type}"/></w:r>`;
const code = (words: string): string => `<w:r><w:instrText xml:space="preserve">${words}</w:instrText></w:r>`;
const open = (xml: string): string => `\n\n\`\`\`{=openxml}\n${xml}\n\`\`\`\n\n`;
const paragraph = (xml: string): string => open(`<w:p>${xml}</w:p>`);
const control = (properties: string, content: string): string =>
  `<w:sdt><w:sdtPr>${properties}</w:sdtPr><w:sdtContent>${content}</w:sdtContent></w:sdt>`;

test('content controls, fields and bookmarks of a .docx by pandoc are filled, whatever form they have', async () => {
  const hint = '<w:showingPlcHdr/><w:dataBinding w:xpath="/a" w:storeItemID="{0}"/>';
  const made = office.fromMarkdown(
    [
      paragraph(text('A ') + control('<w:tag w:val="Document_number"/>', text('unset')) + text('.')),
      open(
        control(
          `<w:alias w:val="Document title"/>${hint}`,
          `<w:p>${text('Click to')}</w:p><w:p>${text('enter')}</w:p>`,
        ),
      ),
      // A complex field over three runs with a field in its result; one in a single run; one without result.
      paragraph(
        text('B ') +
          sign('begin') +
          code(' DOCPROPERTY ') +
          code('"Document version" \\* MERGEFORMAT ') +
          sign('separate') +
          text('old') +
          sign('begin') +
          code('PAGE') +
          sign('separate') +
          text('7') +
          sign('end') +
          text(' older') +
          sign('end') +
          text('.'),
      ),
      paragraph(
        `${text('C ')}<w:r><w:fldChar w:fldCharType="begin"/><w:instrText>DOCPROPERTY DocumentStatus</w:instrText><w:fldChar w:fldCharType="separate"/><w:t>old</w:t><w:fldChar w:fldCharType="end"/></w:r>${text('.')}`,
      ),
      paragraph(`${text('D ')}${sign('begin')}${code('DOCPROPERTY "Issue date"')}${sign('end')}${text('.')}`),
      paragraph(
        `${text('E ')}<w:fldSimple w:instr=" DOCPROPERTY &quot;Document owner&quot; ">${text('old')}</w:fldSimple>${text('.')}`,
      ),
      paragraph(
        `${text('F ')}<w:bookmarkStart w:id="901" w:name="Review_date"/>${text('old')}${text(' date')}<w:bookmarkEnd w:id="901"/>${text('.')}`,
      ),
      paragraph(
        `${text('G ')}<w:bookmarkStart w:id="902" w:name="Tower"/><w:bookmarkEnd w:id="902"/>${text(' G')}`,
      ),
      paragraph(`${text('H ')}${sign('begin')}${code('PAGE')}${sign('separate')}${text('9')}${sign('end')}`),
      '# Document version {#document-version}\n\nWhat stands under a heading is no bookmark of ours.',
    ].join('\n'),
  );
  const issued = await issue(made, 'a.docx', inForce);
  const [read = new Uint8Array()] = office.saved([issued], 'txt');
  const inSuite = new TextDecoder().decode(read);
  const inPandoc = office.markdownOf(issued).replace(/\\/g, '');
  for (const told of [inSuite, inPandoc]) {
    expect(told).toContain('A OP-014.');
    expect(told).toContain('Opening & closing <the line>');
    expect(told).not.toMatch(/Click|enter|\bold|unset/);
    expect(told).toContain('B 2.0.');
    expect(told).toContain('F 2027-11-02.');
    expect(told).toContain('G 4 G');
    expect(told).toMatch(/Document version/);
    expect(told).toContain('What stands under a heading');
  }
  // Fields that are simple, or stand in one run, pandoc does not read at all.
  for (const told of ['C In force.', 'D 2026-11-02.', 'E T. Brandvold.']) expect(inSuite).toContain(told);
  // A field that is updated shows what the property says; a bound control, what it was filled with.
  const parts = readAll(issued);
  if (isRefusal(parts)) throw new Error(parts.reason);
  const part = (name: string): string => new TextDecoder().decode(parts.get(name));
  expect(part('docProps/custom.xml')).toMatch(/name="Document version"><vt:lpwstr[^>]*>2\.0</);
  expect(part('word/document.xml')).not.toMatch(/dataBinding|showingPlcHdr/);
});

/** Texts in the parts of a package, as they stand in its XML. */
function wordsIn(bytes: Uint8Array): string {
  const parts = readAll(bytes);
  if (isRefusal(parts)) throw new Error(parts.reason);
  return [...parts]
    .filter(([name]) => /\.xml$/.test(name))
    .map(([, part]) => new TextDecoder().decode(part).replace(/<[^>]*>/g, ' '))
    .join(' ');
}

// By general-purpose libraries and an office suite: text boxes in both branches of what programs draw,
// links, tracked insertions, inline controls, bookmarks over two paragraphs (ECMA-376 part 1, 17.13.6,
// 20.4, part 3).
test.each([
  ['issue-all-places.docx', /OLD(?!TITLEFIELD)/],
  ['issue-textframe-by-libreoffice.docx', /OLD/],
  ['issue-textframe-by-libreoffice.odt', /OLD/],
  ['issue-bookmark-in-insertion.docx', /OLD/],
  ['issue-fields.odt', /OLD/],
])('no place of %s in which a name can stand keeps what it held', async (name, old) => {
  const given = readFileSync(join(folder, name));
  expect(wordsIn(given)).toMatch(old);
  const issued = await issue(given, name, inForce);
  expect(wordsIn(issued)).not.toMatch(old);
  expect(wordsIn(issued)).toContain(' 2.0 ');
  // Where several places show one thing they show the same, and the suite reads it.
  const [read] = readInSuite([issued], name.endsWith('odt') ? 'odt' : 'docx');
  expect(read).toContain('2.0');
  expect(read).not.toMatch(old);
});

test('a file that names nothing stays byte for byte as it is, and so does one of another kind', async () => {
  const plain = office.fromMarkdown('Nothing here is to be filled in.');
  expect(await issue(plain, 'a.docx', inForce)).toBe(plain);
  const words = new TextEncoder().encode('Document number');
  expect(await issue(words, 'a.txt', inForce)).toBe(words);
  expect(['a.docx', 'a.ODT', 'a.xlsx', 'a.pdf'].every(carriesControlFields)).toBe(true);
  expect(carriesControlFields('a.md')).toBe(false);
});

test('names in braces in the headers and footers of a workbook are filled, and its own codes stay', async () => {
  // Written and read back by exceljs, which knows nothing of this.
  const made = new exceljs.Workbook();
  for (const name of ['A', 'B']) {
    const sheet = made.addWorksheet(name);
    sheet.getCell('A1').value = '{Document number}';
    sheet.headerFooter.oddHeader = '&LHead {Document number} {Document title}&RPage &P of &N';
    sheet.headerFooter.oddFooter = '&CFoot {Document_version}, {Document status}, {Client}';
  }
  const issued = await issue(new Uint8Array(await made.xlsx.writeBuffer()), 'a.xlsx', inForce);
  const read = new exceljs.Workbook();
  await read.xlsx.load(issued.buffer as ArrayBuffer);
  expect(read.worksheets).toHaveLength(2);
  for (const { headerFooter } of read.worksheets) {
    // Two ampersands are one (ECMA-376 part 1, 18.3.1.39).
    expect(headerFooter.oddHeader).toBe('&LHead OP-014 Opening && closing <the line>&RPage &P of &N');
    expect(headerFooter.oddFooter).toBe('&CFoot 2.0, In force, {Client}');
  }
  // Cells are the author's.
  expect(read.worksheets[0]?.getCell('A1').value).toBe('{Document number}');
});

test('every page of a PDF gets a line in its margin, read back by pdf.js, turned pages too', async () => {
  const [made = new Uint8Array()] = office.converted([flatText], 'fodt', 'pdf');
  const source = await PDFDocument.load(made);
  for (const angle of [90, 180, 270]) {
    const page = source.addPage([400, 300]);
    page.setRotation(degrees(angle));
  }
  const pages = office.pagesOf(await issue(await source.save(), 'a.pdf', inForce));
  const line = 'OP-014 Opening & closing <the line> · 2.0 · In force · issued 2026-11-02 · T. Brandvold';
  expect(pages).toHaveLength(4);
  for (const page of pages) expect(page).toContain(line);
  expect(pages[0]).toContain('Head');
  // In a font that comes along: the standard ones have neither Greek nor Cyrillic (ISO 32000-1, annex D.2).
  const [page = ''] = office.pagesOf(
    await issue(made, 'a.pdf', { ...draft, fields: { title: 'Größe ő Ωμέγα Трос' }, ownerName: 'Ž. Novák' }),
  );
  expect(page).toContain('OP-014 Größe ő Ωμέγα Трос · 2.1 · Draft · Ž. Novák');
});

test('of a PDF that is locked or none, no issued copy is made', async () => {
  const encrypted = new TextEncoder().encode(
    '%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj\n2 0 obj<</Type/Pages/Kids[]/Count 0>>endobj\n' +
      '3 0 obj<</Filter/Standard/V 1/R 2/O(x)/U(y)/P -4>>endobj\ntrailer<</Root 1 0 R/Encrypt 3 0 R>>\n%%EOF',
  );
  const reasonFor = async (bytes: Uint8Array, facts = inForce): Promise<string> => {
    const answer = await issueCopy(bytes, 'a.pdf', written(facts));
    expect(isRefusal(answer) && answer.code).toBe('not-to-be-issued');
    return isRefusal(answer) ? answer.reason : '';
  };
  expect(await reasonFor(encrypted)).toContain('locked against changes');
  // Opens without a password, and is locked all the same (ISO 32000-1, 7.6.3).
  expect(await reasonFor(readFileSync(join(folder, 'pdf-owner-password.pdf')))).toContain(
    'locked against changes',
  );
  expect(await reasonFor(new TextEncoder().encode('no pdf at all'))).toContain('cannot be read as a PDF');
  // What the font lacks, or would write the wrong way round, is never written as something else.
  const [sound = new Uint8Array()] = office.converted([flatText], 'fodt', 'pdf');
  expect(await reasonFor(sound, { ...inForce, fields: { title: '東 の 塔 plan' } })).toContain('“東の塔”');
  expect(await reasonFor(sound, { ...inForce, fields: { title: 'תכנית' } })).toContain('“תכני”');
});

test('how a version stands is true of every state', () => {
  const says = (change: Partial<IssuedFacts>): string => statusWords({ ...inForce, ...change });
  expect(says({})).toBe('In force');
  expect(says({ standing: 'superseded', version: '1.0' })).toBe('Superseded; 2.0 is in force');
  expect(says({ standing: 'superseded', inForce: null })).toBe('Superseded');
  expect(says({ voided: true })).toBe('Void');
  expect(says({ standing: 'scheduled' })).toBe('In force from 2026-11-02');
  expect(says({ state: 'withdrawn', standing: null })).toBe('Withdrawn; 2.0 is in force');
  for (const state of ['draft', 'inApproval', 'approved', 'rejected'] as const) {
    expect(says({ state, standing: null })).toMatch(/^Draft/);
    // No moment that was proposed for it is an issue date.
    expect(valuesOf({ ...inForce, state, standing: null }).values.get('issuedate')).toBe('–');
    expect(valuesOf({ ...inForce, state, standing: null }).line).not.toContain('issued');
  }
  expect(valuesOf(inForce).values.get('drawnby')).toBe('name of p1');
});

test('a damaged part is told and nothing is made', async () => {
  const parts = readAll(office.fromMarkdown('x'));
  if (isRefusal(parts)) throw new Error(parts.reason);
  parts.set('word/document.xml', new TextEncoder().encode('<w:document'));
  const answer = await issueCopy(writeAll(parts), 'a.docx', written(inForce));
  expect(answer instanceof Uint8Array || isRefusal(answer)).toBe(true);
});
