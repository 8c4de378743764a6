import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { readDocx } from '../files/docx/readDocx.ts';
import { type Reading, textOfReading } from '../files/reading.ts';
import { readAll, writeAll } from '../files/zip/writeZip.ts';
import { isRefusal, type Refusal } from '../document/refusal.ts';
import { buildDocx } from './docx/build.ts';
import { type DocxPlan, planDocx } from './docx/plan.ts';
import { linesOf, type MergeChoice, type MergeChoices, mergeText, mergeWords, resolve } from './text.ts';
import { threeWay } from './threeWay.ts';

const wordNames = 'http://schemas.openxmlformats.org/wordprocessingml/2006/main';
const folder = mkdtempSync(join(tmpdir(), 'merge-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const write = (name: string, content: string | Uint8Array): string => {
  const path = join(folder, name);
  writeFileSync(path, content);
  return path;
};
const text = (lines: readonly string[]): string => lines.map((line) => `${line}\n`).join('');

/**
 * What GNU diff3 makes of it: the merged text, or null where it finds a conflict. `-E` leaves out conflicts
 * of sides that agree.
 */
function diff3(base: string, present: string, mine: string): string | null {
  const answer = spawnSync(
    'diff3',
    ['-m', '-E', write('present', present), write('base', base), write('mine', mine)],
    { encoding: 'utf8' },
  );
  expect([0, 1]).toContain(answer.status);
  return answer.status === 0 ? answer.stdout : null;
}
const byLines = (
  base: string,
  present: string,
  mine: string,
  touching: 'joined' | 'apart' = 'joined',
): string | null => {
  const [a, b, c] = [linesOf(base), linesOf(present), linesOf(mine)];
  const regions = threeWay(a, b, c, touching);
  if (regions.some(({ kind }) => kind === 'conflict')) return null;
  return regions
    .map((region) =>
      (region.kind === 'mine'
        ? c.slice(region.mine.start, region.mine.end)
        : b.slice(region.present.start, region.present.end)
      ).join(''),
    )
    .join('');
};

/** A text of lines that differ, and edits of it: lines taken out, put in, or written anew. */
const edited = fc.integer({ min: 0, max: 14 }).chain((length) => {
  const base = Array.from({ length }, (_, index) => `line ${index}`);
  const edit = (who: string) =>
    fc
      .array(
        fc.record({
          at: fc.nat(Math.max(0, length)),
          act: fc.constantFrom('put', 'take', 'write'),
          word: fc.constantFrom('storm', 'ice', who),
        }),
        { maxLength: 4 },
      )
      .map((edits) =>
        edits.reduce((lines, { at, act, word }) => {
          const place = Math.min(at, lines.length);
          if (act === 'put') return [...lines.slice(0, place), `${word} put at ${at}`, ...lines.slice(place)];
          if (place >= lines.length) return lines;
          return act === 'take'
            ? [...lines.slice(0, place), ...lines.slice(place + 1)]
            : [...lines.slice(0, place), `${word} for ${lines[place] ?? ''}`, ...lines.slice(place + 1)];
        }, base),
      );
  return fc.record({ base: fc.constant(base), present: edit('present'), mine: edit('mine') });
});

test('random line files: the same text as GNU diff3 where it finds no conflict, a conflict where it finds one', () => {
  let conflicts = 0;
  let clean = 0;
  fc.assert(
    fc.property(edited, ({ base, present, mine }) => {
      const [a, b, c] = [text(base), text(present), text(mine)];
      const expected = diff3(a, b, c);
      if (expected === null) conflicts += 1;
      else clean += 1;
      expect(byLines(a, b, c)).toBe(expected);
    }),
    { numRuns: process.env['POLYCHRON_MERGE_PAIRS'] === undefined ? 100 : 300 },
  );
  // Both kinds were met, or the property said nothing.
  expect(Math.min(conflicts, clean)).toBeGreaterThan(20);
});

test('regions cover all three texts, one side unchanged gives the other, and both alike give either', () => {
  fc.assert(
    fc.property(edited, ({ base, present, mine }) => {
      const regions = threeWay(base, present, mine);
      for (const side of ['base', 'present', 'mine'] as const) {
        expect(
          regions.reduce((end, region) => {
            expect(region[side].start).toBe(end);
            return region[side].end;
          }, 0),
        ).toBe({ base, present, mine }[side].length);
      }
      expect(byLines(text(base), text(present), text(base))).toBe(text(present));
      expect(byLines(text(base), text(base), text(mine))).toBe(text(mine));
      expect(byLines(text(base), text(mine), text(mine))).toBe(text(mine));
    }),
  );
});

test('side by side, changes of two people are apart where that is asked; two put in at one place are not', () => {
  expect(byLines('a\nb\nc\n', 'A\nb\nc\n', 'a\nB\nc\n', 'apart')).toBe('A\nB\nc\n');
  expect(byLines('a\nb\nc\n', 'x\na\nb\nc\n', 'A\nb\nc\n', 'apart')).toBe('x\nA\nb\nc\n');
  expect(byLines('a\nb\n', 'a\nx\nb\n', 'a\ny\nb\n', 'apart')).toBeNull();
  expect(byLines('a\nb\n', 'a\n', 'a\nB\n', 'apart')).toBeNull();
});

test('two changes of other words of one line are put together; of the same words they are a conflict', () => {
  expect(
    mergeWords(
      'Stop above 18 m/s at Tower 6.',
      'Stop above 16 m/s at Tower 6.',
      'Stop above 18 m/s at Towers 6 and 7.',
    ),
  ).toBe('Stop above 16 m/s at Towers 6 and 7.');
  expect(mergeWords('Stop above 18 m/s.', 'Stop above 16 m/s.', 'Stop above 15 m/s.')).toBeNull();
  expect(mergeWords('Stop above 18 m/s.', '', 'Stop above 15 m/s.')).toBeNull();
  const regions = mergeText(
    'a\nStop above 18 m/s.\nc\n',
    'a\nStop above 16 m/s.\nc\n',
    'a\nStop at once above 18 m/s.\nc\n',
  );
  expect(regions.map(({ kind }) => kind)).toEqual(['same', 'words', 'same']);
  expect(resolve(regions, {})?.join('')).toBe('a\nStop at once above 16 m/s.\nc\n');
});

test('conflicts are chosen one by one; without a choice there is no text', () => {
  const regions = mergeText(
    '1\nspan 12\n3\nwind\n5',
    '1\nspan 14\n3\nwind\n5 present',
    '1\nspan 13\n3\nwind!\n5 mine',
  );
  expect(regions.map(({ kind }) => kind)).toEqual(['same', 'conflict', 'same', 'conflict']);
  expect(resolve(regions, { 1: 'mine' })).toBeNull();
  const chosen = (one: MergeChoice, other: MergeChoice): string | undefined =>
    resolve(regions, { 1: one, 3: other })?.join('');
  expect(chosen('mine', 'present')).toBe('1\nspan 13\n3\nwind\n5 present');
  expect(chosen('base', 'both')).toBe('1\nspan 12\n3\nwind\n5 present\nwind!\n5 mine');
});

describe('.docx, made and read again by pandoc', () => {
  let made = 0;
  const docx = (markdown: string, resources: Record<string, Uint8Array> = {}): Uint8Array => {
    for (const [name, bytes] of Object.entries(resources)) write(name, bytes);
    const [source, target] = [write(`${(made += 1)}.md`, markdown), join(folder, `${made}.docx`)];
    execFileSync('pandoc', ['-f', 'markdown', '--resource-path', folder, '-o', target, source]);
    return readFileSync(target);
  };
  const plan = (base: Uint8Array, present: Uint8Array, mine: Uint8Array): DocxPlan => {
    const found = planDocx(base, present, mine);
    if (isRefusal(found)) throw new Error(found.reason);
    return found;
  };
  const built = (found: DocxPlan, choices: MergeChoices = {}): Uint8Array | null => {
    const merged = buildDocx(found, choices);
    if (merged && isRefusal(merged)) throw new Error(merged.reason);
    return merged;
  };
  const plain = (bytes: Uint8Array | null): string =>
    execFileSync(
      'pandoc',
      ['-f', 'docx', '-t', 'plain', '--wrap=none', write('out.docx', bytes ?? new Uint8Array())],
      { encoding: 'utf8' },
    );
  const kinds = (found: DocxPlan): string[] =>
    found.regions.map(({ kind }) => kind).filter((kind) => kind !== 'same');
  const sentences = [
    'The line is opened slowly.',
    'The wind is read at both masts.',
    'Every tower is called.',
    'The first cabin runs empty.',
  ];
  const page = (lines: readonly string[], heading = 'Opening'): Uint8Array =>
    docx(`# ${heading}\n\n${lines.join('\n\n')}\n`);
  const with1 = (at: number, words: string): string[] =>
    sentences.map((line, index) => (index === at ? words : line));

  test('paragraphs that other people changed are kept, mine too', () => {
    const found = plan(
      page(sentences),
      page(with1(0, 'The line is opened at walking pace.')),
      page([...with1(3, 'The first two cabins run empty.'), 'The log is signed.']),
    );
    expect(kinds(found)).toEqual(['present', 'mine']);
    const merged = built(found);
    expect(plain(merged)).toBe(
      plain(
        page([
          'The line is opened at walking pace.',
          sentences[1] ?? '',
          sentences[2] ?? '',
          'The first two cabins run empty.',
          'The log is signed.',
        ]),
      ),
    );
    const reading = readDocx(merged as Uint8Array) as Reading;
    expect(textOfReading(reading)).toContain('walking pace');
  });
  test('one paragraph changed by both is a conflict, chosen by hand', () => {
    const found = plan(
      page(sentences),
      page(with1(1, 'The wind is read at three masts.')),
      page(with1(1, 'The wind is read twice.')),
    );
    expect(found.regions.find(({ kind }) => kind === 'conflict')).toMatchObject({
      base: [sentences[1]],
      present: ['The wind is read at three masts.'],
      mine: ['The wind is read twice.'],
    });
    expect(buildDocx(found, {})).toBeNull();
    const at = found.regions.findIndex(({ kind }) => kind === 'conflict');
    expect(plain(built(found, { [at]: 'both' }))).toContain('three masts.\n\nThe wind is read twice.');
    expect(plain(built(found, { [at]: 'mine' }))).not.toContain('three masts');
  });
  test('a picture and a link of mine come along', () => {
    const picture = Buffer.from(
      'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
      'base64',
    );
    const mine = docx(
      `# Opening\n\n${sentences.join('\n\n')}\n\n![mast](mast.png)\n\nSee [the table](https://example.test/wind).\n`,
      { 'mast.png': picture },
    );
    const found = plan(page(sentences), page(with1(0, 'The line is opened at walking pace.')), mine);
    expect(kinds(found)).toEqual(['present', 'mine']);
    const merged = built(found) as Uint8Array;
    const media = join(folder, 'media');
    execFileSync('pandoc', [
      '-f',
      'docx',
      '-t',
      'plain',
      '--extract-media',
      media,
      write('with.docx', merged),
    ]);
    expect(execFileSync('find', [media, '-type', 'f', '-size', '-200c'], { encoding: 'utf8' })).toContain(
      '.png',
    );
    expect(
      execFileSync('pandoc', ['-f', 'docx', '-t', 'html', write('with.docx', merged)], { encoding: 'utf8' }),
    ).toContain('href="https://example.test/wind"');
  });
  test('notes of both sides stand in the merged file, each with its own words', () => {
    const noted = (at: number, note: string): Uint8Array => page(with1(at, `${sentences[at]}^[${note}]`));
    const found = plan(page(sentences), noted(0, 'Ask the present crew.'), noted(3, 'Ask my crew.'));
    expect(kinds(found)).toEqual(['present', 'mine']);
    const merged = plain(built(found));
    expect(merged).toMatch(/slowly\.\[1\]/);
    expect(merged).toMatch(/\[1\] Ask the present crew\.\n\n\[2\] Ask my crew\./);
  });
  test("a header that one side changed is that side's; one that both changed is chosen", () => {
    const main = `<w:document xmlns:w="${wordNames}" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><w:body><w:p><w:r><w:t>Text</w:t></w:r></w:p><w:sectPr><w:headerReference w:type="default" r:id="h1"/></w:sectPr></w:body></w:document>`;
    const headed = (header: string): Uint8Array =>
      bare(main, {
        'word/header1.xml': `<w:hdr xmlns:w="${wordNames}"><w:p><w:r><w:t>${header}</w:t></w:r></w:p></w:hdr>`,
        'word/_rels/document.xml.rels':
          '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="h1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/header" Target="header1.xml"/></Relationships>',
      });
    const headerOf = (bytes: Uint8Array | Refusal | null): string => {
      if (bytes && isRefusal(bytes)) throw new Error(bytes.reason);
      const parts = bytes && readAll(bytes);
      return parts && !isRefusal(parts)
        ? new TextDecoder()
            .decode(parts.get('word/header1.xml'))
            .replace(/<[^>]*>/g, '')
            .trim()
        : 'none';
    };
    expect(headerOf(buildDocx(plan(headed('was'), headed('was'), headed('mine')), {}))).toBe('mine');
    expect(headerOf(buildDocx(plan(headed('was'), headed('present'), headed('was')), {}))).toBe('present');
    const both = plan(headed('was'), headed('present'), headed('mine'));
    expect(both.regions.at(-1)).toMatchObject({
      kind: 'conflict',
      present: ['header: present'],
      mine: ['header: mine'],
    });
    const at = both.regions.length - 1;
    expect(buildDocx(both, {})).toBeNull();
    expect([
      headerOf(buildDocx(both, { [at]: 'present' })),
      headerOf(buildDocx(both, { [at]: 'mine' })),
    ]).toEqual(['present', 'mine']);
  });
  test('any edits of paragraphs: the merge by blocks reads as the merge by lines does', () => {
    fc.assert(
      fc.property(edited, ({ base, present, mine }) => {
        const lines = byLines(text(base), text(present), text(mine), 'apart');
        const found = plan(paragraphs(base), paragraphs(present), paragraphs(mine));
        const merged = built(found);
        const reads = merged && textOfReading(readDocx(merged) as Reading);
        if (lines !== null) expect(reads).toBe(lines.trimEnd());
        // What lines cannot settle, blocks and words may: then every word that a side put in is there.
        else if (reads !== null)
          for (const side of [present, mine])
            for (const word of side.join(' ').split(' '))
              if (!base.join(' ').includes(word)) expect(reads).toContain(word);
      }),
      { numRuns: 60 },
    );
    function paragraphs(lines: readonly string[]): Uint8Array {
      const body = lines.map((line) => `<w:p><w:r><w:t>${line}</w:t></w:r></w:p>`).join('');
      return bare(
        `<w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:body>${body}<w:sectPr/></w:body></w:document>`,
      );
    }
  });
});

function bare(main: string, more: Record<string, string> = {}): Uint8Array {
  return writeAll(
    new Map(
      [
        [
          '[Content_Types].xml',
          '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="xml" ContentType="application/xml"/><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/></Types>',
        ],
        ['word/document.xml', main],
        ...Object.entries(more),
      ].map(([name, part]) => [name as string, new TextEncoder().encode(part)]),
    ),
  );
}
