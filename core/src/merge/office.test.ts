import fc from 'fast-check';
import { isRefusal } from '../document/refusal.ts';
import { checkPackage } from '../files/docx/checkPackage.ts';
import { readAll } from '../files/zip/writeZip.ts';
import { Office } from '../testing/office.ts';
import { buildDocx } from './docx/build.ts';
import { planDocx } from './docx/plan.ts';
import { type MergeChoice, mergeChoices, type MergeRegion } from './text.ts';

/**
 * Merges of files that pandoc and an office suite wrote: each opens in both, and loses no word. More pairs of
 * edits with POLYCHRON_MERGE_PAIRS.
 */
const pairs = Number(process.env['POLYCHRON_MERGE_PAIRS'] ?? 12);
const office = new Office();
afterAll(() => office.close());

/** A picture of one point, told from others by its bytes behind the end of it. */
const picture = (tail: number): Uint8Array =>
  Buffer.concat([
    Buffer.from(
      'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
      'base64',
    ),
    Buffer.from([tail]),
  ]);
office.write('mast.png', picture(1));
office.write('logo.png', picture(2));

type Block =
  | {
      kind: 'paragraph' | 'heading' | 'item';
      words: string;
      note?: string;
      remark?: string;
      picture?: string;
      link?: string;
    }
  | { kind: 'table'; rows: string[][] };

/** A block in pandoc's markdown (Pandoc User's Guide: footnotes, `--track-changes`, simple tables). */
function markdownOf(block: Block, index: number): string {
  if (block.kind === 'table') {
    const line = (cells: readonly string[]): string => `| ${cells.join(' | ')} |\n`;
    const [head = [], ...rows] = block.rows;
    return `${line(head)}${line(head.map(() => '---'))}${rows.map(line).join('')}\n`;
  }
  const { kind, words, note, remark, picture: shown, link } = block;
  const linked = link ? ` [${link}](https://example.test/${link})` : '';
  const noted = `${words}${linked}${shown ? ` ![mast](${shown})` : ''}${note ? `^[${note}]` : ''}`;
  const remarked = remark
    ? `[${remark}]{.comment-start id="${index}" author="A"}${noted}[]{.comment-end id="${index}"}`
    : noted;
  return `${{ paragraph: '', heading: '## ', item: '1. ' }[kind]}${remarked}\n\n`;
}

type Edit = {
  act: 'word' | 'put' | 'take' | 'row' | 'cell' | 'note' | 'remark' | 'picture' | 'link';
  at: number;
};
const acts = ['word', 'put', 'take', 'row', 'cell', 'note', 'remark', 'picture', 'link'] as const;

/** A document of blocks with words of their own, after somebody's edits, whose words name them. */
function edited(base: readonly Block[], edits: readonly Edit[], who: string): Block[] {
  const blocks = structuredClone(base) as Block[];
  for (const [index, { act, at }] of edits.entries()) {
    const place = at % Math.max(1, blocks.length);
    const block = blocks[place];
    const word = `${who}word${index}`;
    if (act === 'put' || !block)
      blocks.splice(place, 0, { kind: 'paragraph', words: `Put in ${word} here.` });
    else if (act === 'take') blocks.splice(place, 1);
    else if (block.kind === 'table') {
      const row = 1 + (at % (block.rows.length - 1));
      if (act === 'row') block.rows.splice(row, 0, [word, 'new']);
      else (block.rows[row] as string[])[at % 2] = word;
    } else if (act === 'note') block.note = `Noted ${word}.`;
    else if (act === 'remark') block.remark = `Remarked ${word}`;
    else if (act === 'picture') block.picture = who === 'mine' ? 'mast.png' : 'logo.png';
    else if (act === 'link') block.link = word;
    else {
      const words = block.words.split(' ');
      words.splice(at % words.length, 0, word);
      block.words = words.join(' ');
    }
  }
  return blocks;
}

const blocks = fc
  .array(fc.constantFrom('paragraph', 'paragraph', 'paragraph', 'heading', 'item', 'table'), {
    minLength: 3,
    maxLength: 9,
  })
  .map((kinds) =>
    kinds.map((kind, index): Block => {
      if (kind !== 'table')
        return {
          kind: kind as 'paragraph',
          words: `Line ${index} of tower${index} is opened slowly by crew${index}.`,
        };
      return { kind, rows: [1, 2, 3, 4].map((row) => [`span${index}x${row}`, `${row * 7}`]) };
    }),
  );
const edits = fc.array(fc.record({ act: fc.constantFrom(...acts), at: fc.nat(40) }), {
  minLength: 1,
  maxLength: 4,
});
const cases = fc.record({
  base: blocks,
  present: edits,
  mine: edits,
  /** Which of the three the office suite saved; the others are as pandoc wrote them. */
  saved: fc.tuple(fc.boolean(), fc.boolean(), fc.boolean()),
  choice: fc.constantFrom(...mergeChoices),
});

const wordsOf = (text: string): Set<string> => new Set(text.match(/(?:present|mine)word\d+/g));

test(`${pairs} random pairs of edits by two programs: the merge opens in both and holds every word`, () => {
  const seed = Number(process.env['POLYCHRON_MERGE_SEED'] ?? Date.now());
  const sample = fc.sample(cases, { numRuns: pairs, seed });
  const written = sample.map(({ base, present, mine }) =>
    [base, edited(base, present, 'present'), edited(base, mine, 'mine')].map((each) =>
      office.fromMarkdown(each.map(markdownOf).join('')),
    ),
  );
  const again = sample.flatMap(({ saved }, at) =>
    saved.flatMap((isSaved, side) => (isSaved ? [{ at, side }] : [])),
  );
  const files = office.saved(
    again.map(({ at, side }) => written[at]?.[side] as Uint8Array),
    'docx',
  );
  for (const [index, { at, side }] of again.entries())
    (written[at] as Uint8Array[])[side] = files[index] as Uint8Array;

  const merged: Uint8Array[] = [];
  const wanted: Set<string>[] = [];
  let conflicts = 0;
  for (const [at, [base, present, mine]] of written.entries()) {
    const about = `seed ${seed}, pair ${at}: ${JSON.stringify(sample[at])}`;
    const plan = planDocx(base as Uint8Array, present as Uint8Array, mine as Uint8Array);
    if (isRefusal(plan)) throw new Error(`${about}: ${plan.reason}`);
    const open = plan.regions.flatMap((region, index) => (region.kind === 'conflict' ? [index] : []));
    conflicts += open.length;
    const choice = sample[at]?.choice as MergeChoice;
    const bytes = buildDocx(plan, Object.fromEntries(open.map((index) => [index, choice])));
    if (!bytes || isRefusal(bytes)) throw new Error(`${about}: ${bytes ? bytes.reason : 'not built'}`);
    expect({ about, problems: checkPackage(readAll(bytes) as Map<string, Uint8Array>) }).toEqual({
      about,
      problems: [],
    });
    merged.push(bytes);
    // What a file holds is what pandoc reads in it: the suite may lose a note as it saves.
    const added = {
      present: wordsOf(office.markdownOf(present as Uint8Array)),
      mine: wordsOf(office.markdownOf(mine as Uint8Array)),
    };
    wanted.push(expectedWords(plan.regions, choice, added, about));
  }
  const inOffice = office.saved(merged, 'txt').map((bytes) => new TextDecoder().decode(bytes));
  for (const [at, bytes] of merged.entries()) {
    const about = `seed ${seed}, pair ${at}: ${JSON.stringify(sample[at])}`;
    const inPandoc = wordsOf(office.markdownOf(bytes));
    const missing = [...(wanted[at] ?? [])].filter((word) => !inPandoc.has(word));
    expect({ about, missing }).toEqual({ about, missing: [] });
    // Words of the text itself: the suite writes no notes and comments into plain text.
    const noted = wordsOf(
      (
        office.markdownOf(bytes).match(/^\[\^.*$|comment-start[^}]*\}|\[[^\]]*\]\{\.comment-start/gm) ?? []
      ).join(' '),
    );
    const unread = [...(wanted[at] ?? [])].filter(
      (word) => !noted.has(word) && !inOffice[at]?.includes(word),
    );
    expect({ about, unread }).toEqual({ about, unread: [] });
  }
  expect(conflicts).toBeGreaterThan(0);
}, 3_600_000);

/**
 * Words a side put in, and that are to be in the merged file; every one is, or is in a conflict that is
 * shown.
 */
function expectedWords(
  regions: readonly MergeRegion[],
  choice: MergeChoice,
  added: Record<'present' | 'mine', Set<string>>,
  about: string,
): Set<string> {
  const inConflict = { present: new Set<string>(), mine: new Set<string>() };
  for (const region of regions.filter(({ kind }) => kind === 'conflict'))
    for (const side of ['present', 'mine'] as const)
      for (const word of wordsOf(region[side].join(' '))) inConflict[side].add(word);
  const kept = { present: ['present', 'both'].includes(choice), mine: ['mine', 'both'].includes(choice) };
  const wanted = new Set<string>();
  for (const side of ['present', 'mine'] as const)
    for (const word of added[side]) if (!inConflict[side].has(word) || kept[side]) wanted.add(word);
  const shown = wordsOf(
    regions.map(({ present, mine, merged }) => [...present, ...mine, ...(merged ?? [])].join(' ')).join(' '),
  );
  const hidden = Object.values(added).flatMap((words) => [...words].filter((word) => !shown.has(word)));
  expect({ about, hidden }).toEqual({ about, hidden: [] });
  return wanted;
}
