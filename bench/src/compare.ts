import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { performance } from 'node:perf_hooks';
import { diffWordsWithSpace } from 'diff';
import { compare, compareWords, isRefusal, readDocx, type Reading, readText } from '@polychron/core';
import { paragraphsDocx } from './heavyDocx.ts';
import { median, tell } from './tell.ts';

/**
 * Comparing two versions of 100,000 words, as text and as .docx, beside the npm library "diff", GNU diff and
 * wdiff on the same texts in one run; and the edits told, beside those that wdiff tells of licence texts.
 */
const folder = mkdtempSync(join(tmpdir(), 'compare-'));
const licences = '/usr/share/common-licenses';
const licence = (name: string): string => readFileSync(join(licences, name), 'utf8');

let seed = 11;
/** The generator mulberry32: its low bits are as random as its high ones. */
const random = (below: number): number => {
  seed = (seed + 0x6d2b79f5) | 0;
  let mixed = Math.imul(seed ^ (seed >>> 15), seed | 1);
  mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
  return ((mixed ^ (mixed >>> 14)) >>> 0) % below;
};

/** 100,000 words of licences in paragraphs, no two alike. */
function longText(): string[] {
  const words = ['GPL-3', 'GPL-2', 'LGPL-2.1', 'Apache-2.0', 'MPL-2.0', 'GFDL-1.3']
    .flatMap((name) => licence(name).split(/\s+/))
    .filter(Boolean);
  return Array.from({ length: 1000 }, (_, at) =>
    Array.from({ length: 100 }, (__, word) => (word === 0 ? `${at}.` : words[random(words.length)])).join(
      ' ',
    ),
  );
}
function edited(paragraphs: readonly string[], edits: number): string[] {
  const copy = paragraphs.map((paragraph) => paragraph.split(' '));
  for (let edit = 0; edit < edits; edit += 1) {
    const words = copy[random(copy.length)] ?? [];
    words.splice(1 + random(words.length), random(2), `edit${edit}`);
  }
  return copy.map((words) => words.join(' '));
}
function wrapped(paragraphs: readonly string[], width: number): string {
  const lines = paragraphs.flatMap((paragraph) => {
    const folded: string[] = [];
    let line = '';
    for (const word of paragraph.split(' ')) {
      if (line !== '' && line.length + word.length >= width) {
        folded.push(line);
        line = word;
      } else line = line === '' ? word : `${line} ${word}`;
    }
    return [...folded, line, ''];
  });
  return lines.join('\n');
}
function shuffled(paragraphs: readonly string[]): string[] {
  const words = paragraphs.flatMap((paragraph) => paragraph.split(' '));
  for (let at = words.length - 1; at > 0; at -= 1) {
    const other = random(at + 1);
    [words[at], words[other]] = [words[other] as string, words[at] as string];
  }
  return paragraphs.map((_, at) => words.slice(at * 100, (at + 1) * 100).join(' '));
}

/** Median time of some runs, in milliseconds. */
function time(run: () => unknown, runs = 5): number {
  run();
  return median(
    Array.from({ length: runs }, () => {
      const start = performance.now();
      run();
      return performance.now() - start;
    }),
  );
}
const file = (name: string, content: string): string => {
  const path = join(folder, name);
  writeFileSync(path, content);
  return path;
};
/** Time of a program over two files, the process with it. */
const program = (name: string, paths: readonly string[]): number =>
  time(() => spawnSync(name, [...paths], { stdio: ['ignore', 'ignore', 'ignore'] }));

const textOf = (text: string): Reading => {
  const reading = readText(new TextEncoder().encode(text));
  if (isRefusal(reading)) throw new Error(reading.reason);
  return reading;
};
const docxOf = (paragraphs: readonly string[]): Reading => {
  const reading = readDocx(paragraphsDocx(paragraphs));
  if (isRefusal(reading)) throw new Error(reading.reason);
  return reading;
};
const compared = (older: Reading, newer: Reading) =>
  compare({ reading: older, fields: { title: '' } }, { reading: newer, fields: { title: '' } });

const base = longText();
const cases: Record<string, [older: string[], newer: string[], olderText?: string, newerText?: string]> = {
  '400 edits': [base, edited(base, 400)],
  '2,000 edits': [base, edited(base, 2000)],
  're-wrapped, 300 edits': [base, base, wrapped(base, 72), wrapped(edited(base, 300), 60)],
  shuffled: [base, shuffled(base)],
  'nothing in common': [base, base.map((paragraph) => paragraph.replace(/\p{L}+/gu, (word) => `x${word}`))],
};
const longest = 2000;
for (const [name, [older, newer, olderText, newerText]] of Object.entries(cases)) {
  const [a, b] = [olderText ?? wrapped(older, 1e9), newerText ?? wrapped(newer, 1e9)];
  const paths = [file('older.txt', a), file('newer.txt', b)];
  const [wdiff, gnu] = [program('wdiff', paths), program('diff', paths)];
  let told = compared(textOf(a), textOf(b));
  const asText = time(() => {
    told = compared(textOf(a), textOf(b));
  });
  const { wordsDeleted, wordsInserted } = told.counts;
  console.log(
    `${name}, text: ${asText.toFixed(0)} ms, wdiff ${wdiff.toFixed(0)} ms, GNU diff ${gnu.toFixed(0)} ms; ${wordsDeleted} words out, ${wordsInserted} in${told.isShortest ? '' : ', not the shortest'}`,
  );
  tell(`${name}, text against wdiff`, asText / wdiff, 5);
  tell(`${name}, text against two seconds`, asText / longest, 1);
  if (olderText !== undefined) continue;
  const [x, y] = [docxOf(older), docxOf(newer)];
  const asDocx = time(() => compared(x, y), 3);
  console.log(`${name}, .docx: ${asDocx.toFixed(0)} ms`);
  tell(`${name}, .docx against two seconds`, asDocx / longest, 1);
  if (!/edits/.test(name)) continue;
  const [p, q] = [older.join('\n'), newer.join('\n')];
  const ours = time(() => compareWords([{ text: p }], [{ text: q }]));
  const theirs = time(() => diffWordsWithSpace(p, q), 1);
  console.log(`${name}, words alone: ${ours.toFixed(0)} ms, diffWordsWithSpace ${theirs.toFixed(0)} ms`);
  tell(`${name}, words alone against diffWordsWithSpace`, ours / theirs, 0.05);
}

/**
 * Words out and in that wdiff tells: of the older those deleted and changed, of the newer inserted and
 * changed.
 */
function editsOfWdiff(paths: readonly string[]): number {
  const { stdout } = spawnSync('wdiff', ['-s', '-123', ...paths], { encoding: 'utf8' });
  return [...stdout.matchAll(/(\d+) +\d+% (?:deleted|inserted|changed)/g)].reduce(
    (sum, [, count]) => sum + Number(count),
    0,
  );
}
const paragraphsOf = (text: string): string[] =>
  text.split(/\n\s*\n/).map((paragraph) => paragraph.trim().replace(/\s+/g, ' '));
for (const [a, b] of [
  ['GPL-2', 'GPL-3'],
  ['LGPL-2', 'LGPL-2.1'],
  ['GFDL-1.2', 'GFDL-1.3'],
  ['GPL-1', 'GPL-2'],
] as const) {
  const [older, newer] = [licence(a), licence(b)];
  const wdiff = editsOfWdiff([file('older.txt', older), file('newer.txt', newer)]);
  const edits = ({ counts }: ReturnType<typeof compared>): number =>
    counts.wordsDeleted + counts.wordsInserted;
  const asText = edits(compared(textOf(older), textOf(newer)));
  const [before, after] = [paragraphsOf(older), paragraphsOf(newer)];
  const asDocx = edits(compared(docxOf(before), docxOf(after)));
  // A line a paragraph, as Markdown is often written.
  const asMarkdown = edits(compared(textOf(before.join('\n\n')), textOf(after.join('\n\n'))));
  console.log(
    `${a} to ${b}: wdiff ${wdiff} words out and in, as text ${asText}, as .md ${asMarkdown}, as .docx ${asDocx}`,
  );
  tell(`${a} to ${b}, edits as .md against wdiff`, asMarkdown / wdiff, 1.05);
  tell(`${a} to ${b}, edits as text against wdiff`, asText / wdiff, 1.05);
  tell(`${a} to ${b}, edits as .docx against wdiff`, asDocx / wdiff, 1.05);
}
rmSync(folder, { recursive: true });
