import { elementAt } from '../document/elementAt.ts';
import { countWords, type Run, sameStyle } from '../files/reading.ts';
import { boundedScript } from './editScript.ts';

/** A run of a comparison: what both have, what only the older has, what only the newer has. */
export interface ComparedRun extends Run {
  status: 'same' | 'deleted' | 'inserted';
}

/** A piece of a run: a word, a stretch of white space, a sign; or a picture, a note's mark, a field. */
interface Token {
  /** Equal for tokens that are the same. */
  key: string;
  text: string;
  /** The run it is of. */
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
  const tokens: Token[] = [];
  for (const run of runs) {
    const key = keyOfWhole(run);
    if (key !== null) tokens.push({ key, text: '', run });
    else for (const text of tokenize(run.text)) tokens.push({ key: text, text, run });
  }
  return tokens;
}

/** What a run that is one token is the same by; null for a run of words. */
function keyOfWhole({ image, note, field }: Run): string | null {
  if (image) return `\u0000image ${image.hash} ${image.alt}|${image.width}x${image.height}`;
  if (note !== undefined) return '\u0000note';
  return field ? `\u0000${field}` : null;
}

/** What comparing two texts word by word found. */
export interface WordComparison {
  runs: ComparedRun[];
  wordsDeleted: number;
  wordsInserted: number;
  /** Whether there is certainly no shorter way to tell it. */
  isShortest: boolean;
  /** Runs of the same words whose style differs, older and newer. */
  restyled: [Run, Run][];
}

const wordsIn = (tokens: readonly Token[]): number => countWords(tokens.map(({ text }) => text).join(''));
const isSpace = (token: Token): boolean => /^\s+$/.test(token.key);

/**
 * Compares two runs of text by words (Myers 1986). Note marks are the same whatever their number, page fields
 * too.
 * @param spaces `overLineEnds`: any white space stands for any other, and is told where it differs
 */
export function compareWords(
  older: readonly Run[],
  newer: readonly Run[],
  spaces: 'asTheyAre' | 'overLineEnds' = 'asTheyAre',
): WordComparison {
  const a = tokensOf(older);
  const b = tokensOf(newer);
  const keyOf = (token: Token): string => (spaces === 'overLineEnds' && isSpace(token) ? ' ' : token.key);
  const { spans, isShortest } = boundedScript(a.map(keyOf), b.map(keyOf));
  const parts: { status: ComparedRun['status']; tokens: Token[]; old: Token[] }[] = [];
  let wordsDeleted = 0;
  let wordsInserted = 0;
  const restyled: [Run, Run][] = [];
  for (const span of spans) {
    const old = a.slice(span.aStart, span.aEnd);
    const made = b.slice(span.bStart, span.bEnd);
    if (span.kind === 'deleted') wordsDeleted += wordsIn(old);
    if (span.kind === 'inserted') wordsInserted += wordsIn(made);
    if (span.kind === 'equal') restyled.push(...restyledIn(old, made));
    parts.push({
      status: span.kind === 'equal' ? 'same' : span.kind,
      tokens: span.kind === 'deleted' ? old : made,
      old,
    });
  }
  const told = bridgeSpaces(joinSlid(parts));
  const shown = spaces === 'overLineEnds' ? told.flatMap(withSpacesTold) : told;
  return { runs: toRuns(shown), wordsDeleted, wordsInserted, restyled, isShortest };
}

/** Pairs of runs that equal words are of and that look otherwise, each once. */
function restyledIn(old: readonly Token[], made: readonly Token[]): [Run, Run][] {
  const pairs: [Run, Run][] = [];
  let [before, after]: [Run | null, Run | null] = [null, null];
  for (const [at, { run }] of old.entries()) {
    const now = elementAt(made, at).run;
    if (run === before && now === after) continue;
    [before, after] = [run, now];
    if (!sameStyle(run, now)) pairs.push([run, now]);
  }
  return pairs;
}

/** Equal words, with the white space between them told where it differs. */
function withSpacesTold(part: Part): Part[] {
  if (part.status !== 'same') return [part];
  const { old, tokens: made } = part;
  const parts: Part[] = [];
  for (const [at, token] of made.entries()) {
    const was = elementAt(old, at);
    if (was.key === token.key) {
      const last = parts.at(-1);
      if (last?.status === 'same') {
        last.tokens.push(token);
        last.old.push(was);
      } else parts.push({ status: 'same', tokens: [token], old: [was] });
    } else {
      parts.push({ status: 'deleted', tokens: [was], old: [was] });
      parts.push({ status: 'inserted', tokens: [token], old: [] });
    }
  }
  return parts;
}

type Part = { status: ComparedRun['status']; tokens: Token[]; old: Token[] };

/** Adds to a list, however long what is added is. */
function append<T>(to: T[], ...lists: readonly (readonly T[])[]): void {
  for (const list of lists) for (const item of list) to.push(item);
}

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
      space.old[0]?.key === space.tokens[0]?.key &&
      part.tokens.at(-1)?.key === space.tokens[0]?.key;
    if (!slides) {
      joined.push(part);
      continue;
    }
    append(before.tokens, space.tokens, part.tokens.slice(0, -1));
    // Of what went, the tokens are the older ones themselves.
    if (before.old !== before.tokens) append(before.old, space.old, part.old.slice(0, -1));
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
    if (part.status === 'deleted') append(deleted, part.tokens);
    else if (part.status === 'inserted') append(inserted, part.tokens);
    else if (replacing && part.tokens.every(isSpace)) {
      append(deleted, part.old);
      append(inserted, part.tokens);
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
  // The run that the last one is made from, and whether more words may follow in it.
  let source: Run | null = null;
  for (const { status, tokens } of parts) {
    for (const { text, run } of tokens) {
      const last = runs.at(-1);
      const isWhole = keyOfWhole(run) !== null;
      if (last && source && last.status === status && !isWhole && (source === run || sameStyle(source, run)))
        last.text += text;
      else runs.push({ ...run, ...(isWhole ? {} : { text }), status });
      source = isWhole ? null : run;
    }
  }
  return runs;
}
