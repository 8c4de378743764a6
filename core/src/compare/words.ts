import { countWords, type Run, sameStyle } from '../files/reading.ts';
import { elementAt } from '../document/elementAt.ts';
import { Matching, type Stretch } from './matching.ts';
import { isWhole, type RunText, textOfWords } from './tokens.ts';

/** A run of a comparison: what both have, what only the older has, what only the newer has. */
export interface ComparedRun extends Run {
  status: 'same' | 'deleted' | 'inserted';
}

/** What comparing two texts word by word found. */
export interface WordComparison {
  runs: ComparedRun[];
  wordsDeleted: number;
  wordsInserted: number;
  /** Share of the longer text that stayed, by its signs. */
  kept: number;
  /** Whether no search for the shortest way to tell it was given up. */
  isShortest: boolean;
  /** Runs of the same words whose style differs, older and newer. */
  restyled: [Run, Run][];
}

/**
 * Compares two runs of text by words (Myers 1986), with the white space between them told where it differs.
 * Long stretches that stayed are found first. Note marks are the same whatever their number, page fields too.
 */
export function compareWords(older: readonly Run[], newer: readonly Run[]): WordComparison {
  const [a, b] = [textOfWords(older), textOfWords(newer)];
  const { stretches, isShortest } = new Matching(a, b);
  const woven = new Woven(a, b);
  for (const stretch of withoutLoneSigns(stretches, a.text, b.text)) {
    woven.changed(stretch.a, stretch.b);
    woven.same(stretch.aEnd - stretch.a);
  }
  woven.changed(a.text.length, b.text.length);
  const { wordsDeleted, wordsInserted, signsKept } = woven;
  const kept = signsKept / Math.max(1, a.text.length, b.text.length);
  return { ...runsOf(woven.pieces, a, b), wordsDeleted, wordsInserted, kept, isShortest };
}

const hasWords = (text: string): boolean => /[\p{L}\p{N}]/u.test(text);

/**
 * Leaves out signs that stayed between words that were all replaced: "M. Oduya" became "A. Kilbride" as a
 * whole, and not around a kept point.
 */
function withoutLoneSigns(stretches: readonly Stretch[], older: string, newer: string): readonly Stretch[] {
  const isReplaced = (before: number, after: number): boolean => {
    const [from, to] = [stretches[before], stretches[after]];
    const gone = older.slice(from?.aEnd ?? 0, to?.a ?? older.length);
    return hasWords(gone) && hasWords(newer.slice(from?.bEnd ?? 0, to?.b ?? newer.length));
  };
  return stretches.filter(
    ({ a, aEnd }, at) =>
      aEnd - a > fewSigns ||
      hasWords(older.slice(a, aEnd)) ||
      !isReplaced(at - 1, at) ||
      !isReplaced(at, at + 1),
  );
}
/** A stretch of more signs is something of its own: a line of dashes. */
const fewSigns = 3;

/** A stretch of text: of the newer, where it was inserted or is the same; of the older, where it went. */
interface Piece {
  status: ComparedRun['status'];
  from: number;
  to: number;
  /** Where the same text stands in the older. */
  older: number;
}

const spaceBefore = (text: string): string => text.slice(0, text.length - text.trimStart().length);
const spaceBehind = (text: string): string => text.slice(text.trimEnd().length);
const sameLength = (a: string, b: string): number => (a === b ? a.length : 0);

/** Both texts laid into one another, front to back: each sign of either is in one piece. */
class Woven {
  readonly pieces: Piece[] = [];
  wordsDeleted = 0;
  wordsInserted = 0;
  signsKept = 0;
  /** How far each text is laid. */
  private a = 0;
  private b = 0;

  constructor(
    private readonly older: RunText,
    private readonly newer: RunText,
  ) {}

  /** So many signs that both have. */
  same(length: number): void {
    this.add('same', length);
    this.signsKept += length;
  }

  /**
   * What went or came up to a place of each text, with the white space between the words: ", Tower 6" put in
   * before a kept space, or "half of the" replaced as one phrase.
   */
  changed(aEnd: number, bEnd: number): void {
    const [gone, come] = [this.older.text.slice(this.a, aEnd), this.newer.text.slice(this.b, bEnd)];
    const before = sameLength(spaceBefore(gone), spaceBefore(come));
    const isUsedUp = before === gone.length || before === come.length;
    const behind = isUsedUp ? 0 : sameLength(spaceBehind(gone), spaceBehind(come));
    this.same(before);
    this.wordsDeleted += countWords(gone.slice(before, gone.length - behind));
    this.wordsInserted += countWords(come.slice(before, come.length - behind));
    this.add('deleted', gone.length - before - behind);
    this.add('inserted', come.length - before - behind);
    this.same(behind);
  }

  /** Lays so many signs more. */
  private add(status: Piece['status'], length: number): void {
    if (length === 0) return;
    const { a, b } = this;
    const from = status === 'deleted' ? a : b;
    const last = this.pieces.at(-1);
    if (last?.status === status) last.to = from + length;
    else this.pieces.push({ status, from, to: from + length, older: a });
    if (status !== 'inserted') this.a += length;
    if (status !== 'deleted') this.b += length;
  }
}

/** Pieces as runs of text in their styles, with the pairs of runs that look otherwise. */
function runsOf(
  pieces: readonly Piece[],
  older: RunText,
  newer: RunText,
): Pick<WordComparison, 'runs' | 'restyled'> {
  const runs: ComparedRun[] = [];
  const restyled: [Run, Run][] = [];
  const [was, now] = [new Reader(older), new Reader(newer)];
  for (const { status, from, to, older: oldFrom } of pieces) {
    const reader = status === 'deleted' ? was : now;
    // The run that the last one is made from, where more words may follow in it.
    let source: Run | null = null;
    for (let at = from; at < to;) {
      let end = Math.min(to, reader.goTo(at));
      const { run } = reader;
      if (status === 'same') {
        end = Math.min(end, was.goTo(oldFrom + at - from) + from - oldFrom);
        addRestyled(restyled, was.run, run);
      }
      const last = runs.at(-1);
      const text = reader.laid.text.slice(at, end);
      if (isWhole(run)) runs.push({ ...run, status });
      else if (last && source && (source === run || sameStyle(source, run))) last.text += text;
      else runs.push(reader.isPlain ? { text, status } : { ...run, text, status });
      source = isWhole(run) ? null : run;
      at = end;
    }
  }
  return { runs, restyled };
}

/** Notes a pair of runs that look otherwise, once where they follow one another. */
function addRestyled(restyled: [Run, Run][], before: Run, after: Run): void {
  const [was, now] = restyled.at(-1) ?? [];
  if ((was !== before || now !== after) && !sameStyle(before, after)) restyled.push([before, after]);
}

const hasOnlyText = (run: Run): boolean => Object.keys(run).length === 1;

/** Goes through the runs of a text from front to back. */
class Reader {
  /** Whether runs are nothing but their text. */
  readonly isPlain: boolean;
  private at = 0;

  constructor(readonly laid: RunText) {
    this.isPlain = laid.runs.every(hasOnlyText);
  }

  get run(): Run {
    return elementAt(this.laid.runs, this.at);
  }

  /** Goes on to the run that a sign is of; returns where that run ends. */
  goTo(sign: number): number {
    const { starts, text } = this.laid;
    while (this.at + 1 < starts.length && elementAt(starts, this.at + 1) <= sign) this.at += 1;
    return starts[this.at + 1] ?? text.length;
  }
}
