import { elementAt } from '../document/elementAt.ts';
import { countWords, type Run, sameStyle, textOfRuns } from '../files/reading.ts';
import { editScript } from './editScript.ts';

/** A run of a comparison: what both have, what only the older has, what only the newer has. */
export interface ComparedRun extends Run {
  status: 'same' | 'deleted' | 'inserted';
}

interface Token {
  key: string;
  run: Run;
}

const wordPattern =
  /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}]|\p{L}[\p{L}\p{M}\p{N}'’_]*|\p{N}+(?:[.,]\p{N}+)*|\s+|[^]/gu;

/**
 * Cuts a text into words, numbers, stretches of white space and single signs; joined again they are the text.
 */
export function tokenize(text: string): string[] {
  return text.match(wordPattern) ?? [];
}

function tokensOf(runs: readonly Run[]): Token[] {
  return runs.flatMap((run): Token[] => {
    if (run.image)
      return [
        { key: `\u0000image ${run.image.hash} ${run.image.alt}|${run.image.width}x${run.image.height}`, run },
      ];
    if (run.note !== undefined) return [{ key: '\u0000note', run }];
    if (run.field) return [{ key: `\u0000${run.field}`, run }];
    return tokenize(run.text).map((text) => ({ key: text, run: { ...run, text } }));
  });
}

/** What comparing two texts word by word found. */
export interface WordComparison {
  runs: ComparedRun[];
  wordsDeleted: number;
  wordsInserted: number;
  /** Runs of the same words whose style differs, older and newer. */
  restyled: [Run, Run][];
}

const wordsIn = (tokens: readonly Token[]): number => countWords(textOfRuns(tokens.map(({ run }) => run)));
const isSpace = (token: Token): boolean => /^\s+$/.test(token.key);

/**
 * Compares two runs of text by words (Myers 1986). Note marks are the same whatever their number, page fields
 * too.
 */
export function compareWords(older: readonly Run[], newer: readonly Run[]): WordComparison {
  const a = tokensOf(older);
  const b = tokensOf(newer);
  const spans = editScript(
    a.map(({ key }) => key),
    b.map(({ key }) => key),
  );
  const parts: { status: ComparedRun['status']; tokens: Token[]; old: Token[] }[] = [];
  let wordsDeleted = 0;
  let wordsInserted = 0;
  const restyled: [Run, Run][] = [];
  for (const span of spans) {
    const old = a.slice(span.aStart, span.aEnd);
    const made = b.slice(span.bStart, span.bEnd);
    if (span.kind === 'deleted') wordsDeleted += wordsIn(old);
    if (span.kind === 'inserted') wordsInserted += wordsIn(made);
    if (span.kind === 'equal')
      for (const [i, { run }] of old.entries())
        if (!sameStyle(run, elementAt(made, i).run)) restyled.push([run, elementAt(made, i).run]);
    parts.push({
      status: span.kind === 'equal' ? 'same' : span.kind,
      tokens: span.kind === 'deleted' ? old : made,
      old,
    });
  }
  return { runs: toRuns(bridgeSpaces(joinSlid(parts))), wordsDeleted, wordsInserted, restyled };
}

type Part = { status: ComparedRun['status']; tokens: Token[]; old: Token[] };

/**
 * ", Tower" + kept space + "6 " is one passage put in, ", Tower 6", before a kept space: where a change ends
 * with the very space that was kept before it, the change slides over it and joins its neighbour of the same
 * kind. Both texts stay what they are.
 */
function joinSlid(parts: readonly Part[]): Part[] {
  const joined: Part[] = [];
  for (const part of parts) {
    const space = joined.at(-1);
    const before = joined.at(-2);
    const slides =
      space &&
      before &&
      part.status !== 'same' &&
      before.status === part.status &&
      space.status === 'same' &&
      space.tokens.length === 1 &&
      isSpace(elementAt(space.tokens, 0)) &&
      part.tokens.at(-1)?.key === space.tokens[0]?.key;
    if (!slides) {
      joined.push(part);
      continue;
    }
    joined.splice(
      -2,
      2,
      {
        ...before,
        tokens: [...before.tokens, ...space.tokens, ...part.tokens.slice(0, -1)],
        old: [...before.old, ...space.old, ...part.old.slice(0, -1)],
      },
      space,
    );
  }
  return joined;
}

/**
 * Two words replaced side by side read as one replacement, not as two with a kept space between; so a kept
 * stretch of nothing but space between changes is shown as replaced too.
 */
function bridgeSpaces(parts: readonly Part[]): Part[] {
  const bridged: Part[] = [];
  let deleted: Token[] = [];
  let inserted: Token[] = [];
  const flush = (): void => {
    if (deleted.length > 0) bridged.push({ status: 'deleted', tokens: deleted, old: deleted });
    if (inserted.length > 0) bridged.push({ status: 'inserted', tokens: inserted, old: [] });
    deleted = [];
    inserted = [];
  };
  parts.forEach((part, index) => {
    const replacing = deleted.length > 0 && inserted.length > 0 && index < parts.length - 1;
    if (part.status === 'deleted') deleted.push(...part.tokens);
    else if (part.status === 'inserted') inserted.push(...part.tokens);
    else if (replacing && part.tokens.every(isSpace)) {
      deleted.push(...part.old);
      inserted.push(...part.tokens);
    } else {
      flush();
      bridged.push(part);
    }
  });
  flush();
  return bridged;
}

function toRuns(parts: readonly Part[]): ComparedRun[] {
  const runs: ComparedRun[] = [];
  for (const { status, tokens } of parts) {
    for (const { run } of tokens) {
      const last = runs.at(-1);
      const joins =
        last &&
        last.status === status &&
        sameStyle(last, run) &&
        ![last, run].some((each) => each.image || each.field || each.note !== undefined);
      if (joins) last.text += run.text;
      else runs.push({ ...run, status });
    }
  }
  return runs;
}
