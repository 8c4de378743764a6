import { isRefusal } from '../../document/refusal.ts';
import { checkPackage } from '../../files/docx/checkPackage.ts';
import { readAll, writeAll } from '../../files/zip/writeZip.ts';
import { Office } from '../../testing/office.ts';
import type { MergeChoices } from '../text.ts';
import { buildDocx } from './build.ts';
import { type DocxPlan, planDocx } from './plan.ts';

const office = new Office();
afterAll(() => office.close());

const point = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);
/** Pictures of one look, told from each other by a byte behind their end. */
const picture = (tail: number): Uint8Array => Buffer.concat([point, Buffer.from([tail])]);

type Three = [base: Uint8Array, present: Uint8Array, mine: Uint8Array];
function planned(files: Three): DocxPlan {
  const plan = planDocx(...files);
  if (isRefusal(plan)) throw new Error(plan.reason);
  return plan;
}
function merged(files: Three, choices: MergeChoices = {}): Uint8Array {
  const bytes = buildDocx(planned(files), choices);
  if (!bytes || isRefusal(bytes)) throw new Error(bytes ? bytes.reason : 'a conflict waits');
  return bytes;
}
const partsOf = (bytes: Uint8Array): Map<string, Uint8Array> => readAll(bytes) as Map<string, Uint8Array>;
const partText = (bytes: Uint8Array, name: string): string =>
  new TextDecoder().decode(partsOf(bytes).get(name));
const kinds = (plan: DocxPlan): string[] =>
  plan.regions.map(({ kind }) => kind).filter((kind) => kind !== 'same');
const page = (...lines: string[]): Uint8Array => office.fromMarkdown(lines.join('\n\n'));
const remark = (words: string, on: string): string =>
  `[${words}]{.comment-start id="0" author="A. Reader"}${on}[]{.comment-end id="0"}`;

const lines = ['The line is opened slowly.', 'The wind is read at both masts.', 'Every tower is called.'];
const withLine = (at: number, words: string): string[] =>
  lines.map((line, index) => (index === at ? words : line));

test('a comment of mine comes along where the latest version has none, and beside one it has', () => {
  const base = page(...lines);
  const mine = page(...withLine(2, remark('Who calls?', 'Every tower is called.')));
  const present = page(...withLine(0, remark('How slowly?', 'The line is opened slowly.')));
  const none = page(...withLine(0, 'The line is opened at walking pace.'));
  const alone = merged([base, none, mine]);
  expect(office.markdownOf(alone)).toMatch(/\[Who calls\?\]\{\.comment-start[^}]*\}Every tower/);
  const both = merged([base, present, mine]);
  expect(office.markdownOf(both)).toMatch(
    /\[How slowly\?\]\{[^}]*\}The line[^]*\[Who calls\?\]\{[^}]*\}Every tower/,
  );
  expect(office.saved([alone, both], 'txt').map((text) => new TextDecoder().decode(text))).toEqual([
    expect.stringContaining('walking pace'),
    expect.stringContaining('Every tower is called.'),
  ]);
  expect([alone, both].map((bytes) => checkPackage(partsOf(bytes)))).toEqual([[], []]);
});

test('both wrote a note and a comment into one paragraph: each keeps its own words', () => {
  const files: Three = [
    page(lines[0] ?? ''),
    page('The line^[Present note.] is opened slowly.'),
    page(`The line is ${remark('My remark', 'opened')} slowly^[My note.].`),
  ];
  expect(kinds(planned(files))).toEqual(['words']);
  const text = office.markdownOf(merged(files));
  expect(text).toMatch(/line\[\^1\] is \[My remark[^]*opened[^]*slowly\[\^2\]\./);
  expect(text).toMatch(/\[\^1\]: Present note\.[^]*\[\^2\]: My note\./);
});

test('a link inside a note of mine leads where it led', () => {
  const files: Three = [
    page(...lines),
    page(...withLine(0, 'Opened at walking pace.^[See [the log](https://example.test/log).]')),
    page(...withLine(2, 'Every tower is called.^[See [the list](https://example.test/list).]')),
  ];
  const text = office.markdownOf(merged(files));
  expect(text).toContain('[the log](https://example.test/log)');
  expect(text).toContain('[the list](https://example.test/list)');
});

test('pictures that have one name on both sides stay two, and one that changed is a change', () => {
  office.write('mast.png', picture(1));
  const present = page(...lines, '![](mast.png)');
  office.write('mast.png', picture(2));
  const mine = page('![](mast.png)', ...lines);
  const mediaOf = (bytes: Uint8Array): number[] =>
    [...partsOf(bytes)]
      .flatMap(([name, part]) => (name.startsWith('word/media/') ? [part.at(-1) ?? 0] : []))
      .sort();
  const names = [present, mine].map((bytes) =>
    [...partsOf(bytes).keys()].filter((name) => /media/.test(name)),
  );
  expect(names[0]).toEqual(names[1]);
  expect(mediaOf(merged([page(...lines), present, mine]))).toEqual([1, 2]);

  // The same place, the same name, other bytes on each side.
  const replaced: Three = [1, 2, 3].map((tail) => {
    office.write('mast.png', picture(tail));
    return page(...lines, '![](mast.png)');
  }) as Three;
  const plan = planned(replaced);
  expect(kinds(plan)).toEqual(['conflict']);
  const at = plan.regions.findIndex(({ kind }) => kind === 'conflict');
  expect(plan.regions[at]?.pictures).toEqual({ base: names[0], present: names[0], mine: names[0] });
  const chosen = (choice: 'present' | 'mine' | 'base' | 'both'): (string | number)[] => {
    const text = office.markdownOf(merged(replaced, { [at]: choice }));
    const shown = [...text.matchAll(/!\[[^\]]*\]\(media\/([^)]*)\)/g)].map(
      ([, name]) => `word/media/${name}`,
    );
    const parts = partsOf(merged(replaced, { [at]: choice }));
    return shown.map((name) => parts.get(name)?.at(-1) ?? 'missing');
  };
  expect([chosen('present'), chosen('mine'), chosen('base'), chosen('both')]).toEqual([
    [2],
    [3],
    [1],
    [2, 3],
  ]);
});

test('rows and cells that each side changed in one table stand side by side', () => {
  const table = (rows: string[][]): string =>
    `${['| span | limit |', '|---|---|', ...rows.map((row) => `| ${row.join(' | ')} |`)].join('\n')}\n`;
  const files: Three = [
    page(
      lines[0] ?? '',
      table([
        ['12', '18'],
        ['13', '20'],
        ['14', '22'],
      ]),
    ),
    page(
      lines[0] ?? '',
      table([
        ['12', '16'],
        ['13', '20'],
        ['14', '22'],
        ['15', '24'],
      ]),
    ),
    page(
      lines[0] ?? '',
      table([
        ['11', '14'],
        ['12 north', '18'],
        ['13', '20'],
        ['14', '22 calm'],
      ]),
    ),
  ];
  expect(kinds(planned(files))).not.toContain('conflict');
  expect(
    office
      .markdownOf(merged(files))
      .match(/\d\d.*/g)
      ?.map((row) => row.split(/\s{2,}/)),
  ).toEqual([
    ['11', '14'],
    ['12 north', '16'],
    ['13', '20'],
    ['14', '22 calm'],
    ['15', '24'],
  ]);
  const clash: Three = [
    page(
      table([
        ['12', '18'],
        ['13', '20'],
      ]),
    ),
    page(
      table([
        ['12', '16'],
        ['13', '20'],
      ]),
    ),
    page(
      table([
        ['12', '15'],
        ['13', '20'],
      ]),
    ),
  ];
  expect(planned(clash).regions.filter(({ kind }) => kind === 'conflict')).toMatchObject([
    { base: ['18'], present: ['16'], mine: ['15'] },
  ]);
});

test('base and sides written by different programs are aligned by what they say; the latest keeps its form', () => {
  const base = page('# Opening', ...lines, '1. One', '2. Two');
  const present = page(
    '# Opening',
    ...withLine(0, 'The line is opened at walking pace.'),
    '1. One',
    '2. Two',
  );
  const [mine = base] = office.saved(
    [page('# Opening', ...withLine(2, 'Every tower is called twice.'), '1. One', '2. Two', '3. Three')],
    'docx',
  );
  const plan = planned([base, present, mine]);
  expect([plan.sameWriter, kinds(plan)]).toEqual([false, ['present', 'mine', 'mine']]);
  const whole = merged([base, present, mine]);
  expect(office.markdownOf(whole)).toBe(
    office.markdownOf(
      page(
        '# Opening',
        'The line is opened at walking pace.',
        lines[1] ?? '',
        'Every tower is called twice.',
        '1. One',
        '2. Two',
        '3. Three',
      ),
    ),
  );
  expect(partText(whole, 'word/styles.xml')).toBe(partText(present, 'word/styles.xml'));
});

test('a list and a style that only mine has come with what uses them', () => {
  const base = page(...lines);
  const present = page(...withLine(0, 'The line is opened at walking pace.'));
  const mine = page(
    ...lines,
    '- one thing',
    '- another',
    '```\ncall all\n```',
    '::: {custom-style="Shift Log"}\nThe log is signed.\n:::',
  );
  const whole = merged([base, present, mine]);
  expect(office.markdownOf(whole)).toMatch(/-\s+one thing\n+-\s+another\n[^]* {4}call all\n+The log/);
  expect(partText(whole, 'word/styles.xml')).toMatch(/w:val="Shift Log"/);
  expect(checkPackage(partsOf(whole))).toEqual([]);
});

describe('headers', () => {
  const names =
    'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships" xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main"';
  const relations = (inner: string): string =>
    `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">${inner}</Relationships>`;
  const type = (name: string): string =>
    `http://schemas.openxmlformats.org/officeDocument/2006/relationships/${name}`;
  /** A file of one paragraph, with a header that says something and shows a logo, where it has one. */
  function headed(words: string, header: { words: string; logo?: number } | null): Uint8Array {
    const reference = header ? '<w:headerReference w:type="default" r:id="h1"/>' : '';
    const drawing = '<w:r><w:drawing><a:blip r:embed="logo"/></w:drawing></w:r>';
    const parts: Record<string, string | Uint8Array> = {
      '[Content_Types].xml':
        '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="xml" ContentType="application/xml"/><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="png" ContentType="image/png"/></Types>',
      '_rels/.rels': relations(
        `<Relationship Id="d" Type="${type('officeDocument')}" Target="word/document.xml"/>`,
      ),
      'word/document.xml': `<w:document ${names}><w:body><w:p><w:r><w:t>${words}</w:t></w:r></w:p><w:sectPr>${reference}</w:sectPr></w:body></w:document>`,
    };
    if (header) {
      parts['word/_rels/document.xml.rels'] = relations(
        `<Relationship Id="h1" Type="${type('header')}" Target="header1.xml"/>`,
      );
      parts['word/header1.xml'] =
        `<w:hdr ${names}><w:p><w:r><w:t>${header.words}</w:t></w:r>${header.logo === undefined ? '' : drawing}</w:p></w:hdr>`;
    }
    if (header?.logo !== undefined) {
      parts['word/_rels/header1.xml.rels'] = relations(
        `<Relationship Id="logo" Type="${type('image')}" Target="media/logo.png"/>`,
      );
      parts['word/media/logo.png'] = picture(header.logo);
    }
    return writeAll(
      new Map(
        Object.entries(parts).map(([name, part]) => [
          name,
          typeof part === 'string' ? new TextEncoder().encode(part) : part,
        ]),
      ),
    );
  }
  const headerOf = (bytes: Uint8Array): { words: string; logos: number[] } => {
    const parts = partsOf(bytes);
    expect(checkPackage(parts)).toEqual([]);
    const header = [...parts.keys()].find((name) => /^word\/header[^/]*\.xml$/.test(name)) ?? '';
    const rels = partText(bytes, header.replace('word/', 'word/_rels/') + '.rels');
    const used = [...rels.matchAll(/Target="([^"]*)"/g)].map(
      ([, target]) => parts.get(`word/${target}`)?.at(-1) ?? -1,
    );
    return {
      words: partText(bytes, header)
        .replace(/<[^>]*>/g, '')
        .trim(),
      logos: used,
    };
  };

  test('one that only mine has or changed comes with its logo; of two that changed one is chosen', () => {
    const now = headed('text now', null);
    const added = merged([headed('text', null), now, headed('text', { words: 'Mine', logo: 7 })]);
    expect(headerOf(added)).toEqual({ words: 'Mine', logos: [7] });
    // The logo belongs to the header: the package itself is related to nothing more than it was.
    expect(partText(added, '_rels/.rels')).toBe(partText(now, '_rels/.rels'));
    expect(
      headerOf(
        merged([
          headed('text', { words: 'Was', logo: 1 }),
          headed('text now', { words: 'Was', logo: 1 }),
          headed('text', { words: 'Was', logo: 2 }),
        ]),
      ),
    ).toMatchObject({ words: 'Was', logos: expect.arrayContaining([2]) });
    const both: Three = [
      headed('text', { words: 'Was' }),
      headed('text', { words: 'Now', logo: 1 }),
      headed('text', { words: 'Mine', logo: 2 }),
    ];
    const plan = planned(both);
    const at = plan.regions.findIndex(({ kind }) => kind === 'conflict');
    expect(plan.regions[at]).toMatchObject({
      present: ['header: Now [picture]'],
      mine: ['header: Mine [picture]'],
    });
    expect(headerOf(merged(both, { [at]: 'mine' }))).toMatchObject({
      words: 'Mine',
      logos: expect.arrayContaining([2]),
    });
    expect(headerOf(merged(both, { [at]: 'base' }))).toMatchObject({ words: 'Was' });
  });
});

describe('a package is checked as a whole', () => {
  const changed = (bytes: Uint8Array, name: string, from: RegExp, to: string): Map<string, Uint8Array> => {
    const parts = partsOf(bytes);
    const before = new TextDecoder().decode(parts.get(name));
    expect(before).toMatch(from);
    return new Map([...parts, [name, new TextEncoder().encode(before.replace(from, to))]]);
  };
  const noted = page('One.^[A note with [a link](https://example.test/).]', remark('Why?', 'Two.'), '- item');

  test.each([
    [
      'word/document.xml',
      /<w:footnoteReference w:id="\d+"/,
      '<w:footnoteReference w:id="77"',
      /footnotes: 77 is named and not there/,
    ],
    [
      'word/document.xml',
      /<w:commentReference w:id="0"/,
      '<w:commentReference w:id="9"',
      /comments: 9 is named and not there/,
    ],
    ['word/document.xml', /<w:commentRangeEnd w:id="0" ?\/>/, '', /commentRange 0 begins and does not end/],
    [
      'word/document.xml',
      /<w:numId w:val="\d+"/,
      '<w:numId w:val="5555"',
      /List 5555 is named and not defined/,
    ],
    [
      'word/_rels/footnotes.xml.rels',
      /<Relationship [^>]*\/>/,
      '',
      /names the relation rId\d+, which is not there/,
    ],
    [
      'word/_rels/document.xml.rels',
      /Target="theme\/theme1\.xml"/,
      'Target="gone.xml"',
      /leads to word\/gone\.xml, which is not there/,
    ],
    [
      '[Content_Types].xml',
      /<Override PartName="\/word\/comments\.xml"[^>]*\/>/,
      '<Override PartName="/word/styles.xml" ContentType="text/xml"/>',
      /\/word\/styles\.xml is given twice/,
    ],
    ['word/comments.xml', /<\/w:comments>/, '', /not well-formed/],
  ])('%s: %s', (name, from, to, problem) => {
    expect(checkPackage(partsOf(noted))).toEqual([]);
    expect(checkPackage(changed(noted, name, from, to)).join(' ')).toMatch(problem);
  });

  test('a merge that would not hold together is refused with its reason', () => {
    const base = page(...lines);
    const mine = writeAll(
      changed(
        page(...withLine(2, 'Every tower^[Note.] is called.')),
        'word/document.xml',
        /<w:footnoteReference w:id="\d+"/,
        '<w:footnoteReference w:id="77"',
      ),
    );
    const plan = planned([base, page(...withLine(0, 'Opened at walking pace.')), mine]);
    expect(buildDocx(plan, {})).toMatchObject({
      code: 'merge-broken',
      reason: expect.stringContaining('footnotes: 77 is named and not there'),
    });
  });
});

/** A file whose text ends with a section of other properties. */
function laidOut(bytes: Uint8Array, properties: string): Uint8Array {
  const parts = partsOf(bytes);
  const text = partText(bytes, 'word/document.xml').replace(
    /<w:sectPr[^>]*(?:\/>|>[^]*?<\/w:sectPr>)/,
    `<w:sectPr>${properties}</w:sectPr>`,
  );
  return writeAll(parts.set('word/document.xml', new TextEncoder().encode(text)));
}

test('a page that only mine laid out otherwise comes along; where both did, the latest stays and is told', () => {
  const size = (width: number): string => `<w:pgSz w:w="${width}" w:h="16838"/>`;
  const margins = (left: number): string => `<w:pgMar w:left="${left}" w:right="1134" w:top="1134"/>`;
  const file = (words: string, properties: string) => laidOut(page(...withLine(0, words)), properties);
  const [line] = lines as [string];
  const base = file(line, `${size(11906)}${margins(1134)}<w:docGrid w:linePitch="360"/>`);
  const present = file('The line is opened.', `${size(11906)}${margins(1000)}<w:docGrid w:linePitch="360"/>`);
  const mine = file(line, `${size(16838)}${margins(900)}<w:cols w:num="2"/><w:docGrid w:linePitch="360"/>`);
  expect(planned([base, present, mine]).definitions.kept).toEqual(['the margins']);
  const made = partText(merged([base, present, mine]), 'word/document.xml');
  expect(/<w:sectPr>([^]*)<\/w:sectPr>/.exec(made)?.[1]).toBe(
    `${size(16838)}${margins(1000)}<w:cols w:num="2"/><w:docGrid w:linePitch="360"/>`,
  );
  const none = merged([base, present, file(line, margins(1134))]);
  expect(partText(none, 'word/document.xml')).not.toContain('pgSz');
});

test('a conflict in a table names its row by the first cell, and its column', () => {
  const table = (stop: number): Uint8Array =>
    page(
      '| Span | Stop |\n|---|---|\n| Valley to Tower 3 | 19 |\n| Tower 3 to Tower 6 | '.concat(`${stop} |`),
    );
  const { regions } = planned([table(17), table(16), table(15)]);
  expect(regions.filter(({ kind }) => kind === 'conflict')).toMatchObject([
    { place: 'Row “Tower 3 to Tower 6”, column 2', present: ['16'], mine: ['15'] },
  ]);
});
