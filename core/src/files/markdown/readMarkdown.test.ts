import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import fc from 'fast-check';
import type { Reading, Run, TableBlock, TextBlock } from '../reading.ts';
import { countWords, textOfBlocks, textOfReading } from '../reading.ts';
import { blocksOfMarkdown, readMarkdown } from './readMarkdown.ts';

/** A block in a line: what it is, its level, its mark and its runs with their styles. */
function line(block: TextBlock | TableBlock): string {
  if (block.kind === 'table') {
    const cell = ({ blocks }: TableBlock['rows'][number]['cells'][number]): string => textOfBlocks(blocks);
    return block.rows.map((row) => `${row.header ? '#' : ''}${row.cells.map(cell).join('|')}`).join(' / ');
  }
  const styles = ({ text, ...look }: Run): string =>
    Object.keys(look).length === 0 ? text : `${text}<${Object.entries(look).flat().join(' ')}>`;
  const { kind, level, marker, indent } = block;
  return `${kind} ${level} ${marker ?? ''}${indent ? ` >${indent}` : ''}: ${block.runs.map(styles).join('·')}`;
}
const lines = (text: string): string[] =>
  blocksOfMarkdown(text).flatMap((block) => (block.kind === 'pageBreak' ? [] : [line(block)]));

// Examples of CommonMark 0.31.2 (headings 4.2, fences 4.5, quotations 5.1, lists 5.3, code spans 6.1, links
// 6.3) and of GitHub's extension for tables, from memory.
test.each<[string, string[]]>([
  ['# foo\n### foo', ['heading 1 : foo', 'heading 3 : foo']],
  ['Foo *bar*\n=========', ['heading 1 : Foo ·bar<italic true>']],
  ['aaa\nbbb\n\nccc', ['paragraph 0 : aaa bbb', 'paragraph 0 : ccc']],
  ['foo  \nbaz', ['paragraph 0 : foo\nbaz']],
  ['```\n<\n >\n```', ['paragraph 0 : <\n ><code true>']],
  ['> foo\n> > bar', ['paragraph 0  >24: foo', 'paragraph 0  >48: bar']],
  ['- foo\n- bar\n  - deep', ['listItem 0 •: foo', 'listItem 0 •: bar', 'listItem 1 •: deep']],
  ['3. a\n4. b\n\n   second', ['listItem 0 3.: a', 'listItem 0 4.: b', 'listItem 0 : second']],
  [
    '**bold `code` *both***',
    ['paragraph 0 : bold <bold true>·code<bold true code true>· <bold true>·both<bold true italic true>'],
  ],
  [
    '[link](https://a.example/x) [in](b.md)',
    ['paragraph 0 : link<href https://a.example/x>· ·in<target b.md>'],
  ],
  ['![Tower 6](t6.png)', ['paragraph 0 : [picture: Tower 6]<target t6.png>']],
  ['[x](javascript:alert(1))', ['paragraph 0 : [x](javascript:alert(1))']],
  ['<b>no</b>', ['paragraph 0 : <b>no</b>']],
  ['| a | b |\n| - | -: |\n| 1 | ~~2~~ |', ['#a|b / 1|2']],
  ['---\ntitle: Rope\n---\n# Rope', ['paragraph 0 : title: Rope<code true>', 'heading 1 : Rope']],
])('%j is set as %j', (text, expected) => {
  expect(lines(text)).toEqual(expected);
});

test('numbers to the right of a column stand to the right', () => {
  const [table] = blocksOfMarkdown('| a | b |\n| - | -: |\n| 1 | 2 |');
  expect(table).toMatchObject({
    rows: [{}, { cells: [{ blocks: [{ runs: [{ text: '1' }] }] }, { blocks: [{ align: 'right' }] }] }],
  });
});

/** Words of a text, and no signs around them. */
const words = (text: string): string[] => text.match(/[\p{L}\p{N}]+/gu) ?? [];

test("the words of this project's own documents are those that pandoc, a program of its own, reads", () => {
  for (const name of ['../../../../docs/rules.md', '../../../../README.md', '../../../../bench/README.md']) {
    const path = fileURLToPath(new URL(name, import.meta.url));
    const plain = execFileSync('pandoc', ['-f', 'gfm', '-t', 'plain', '--wrap=none', path], {
      encoding: 'utf8',
    });
    const reading = readMarkdown(readFileSync(path)) as Reading;
    // Numbers of items are marks here, and a picture is told.
    const ours = textOfReading(reading).replaceAll(/\[picture: [^\]]*\]/g, '');
    const theirs = plain.replaceAll(/^\s*\d+\.\s/gm, '').replaceAll(/\[[^\]]*\]\n/g, '');
    expect(words(ours).sort()).toEqual(words(theirs).sort());
  }
});

test('any text is read, and nothing of plain words is lost', () => {
  const piece = fc.constantFrom(
    'word',
    '#',
    '- ',
    '1. ',
    '> ',
    '|',
    '\n',
    '\n\n',
    '`',
    '**',
    '    ',
    '---',
    '[a](b)',
  );
  fc.assert(
    fc.property(fc.array(piece, { maxLength: 30 }), (pieces) => {
      const text = pieces.join('');
      // What stands behind three ticks names the language of a block: it is no text (CommonMark 4.5).
      fc.pre(!text.includes('```'));
      const read = textOfReading(readMarkdown(new TextEncoder().encode(text)) as Reading);
      const count = (of: string): number => of.split('word').length - 1;
      expect(count(read)).toBe(count(text));
      expect(countWords(read)).toBeLessThanOrEqual(countWords(text));
    }),
    { numRuns: 500 },
  );
});
