import type { Run } from '../files/reading.ts';

/** Runs as one text, in which a picture, a note's mark or a field is one sign. */
export interface RunText {
  text: string;
  /** The runs it is of and where each begins; runs without text are left out. */
  runs: Run[];
  starts: number[];
  /** What a picture, a note's mark or a field is the same by, at its place. */
  wholes: Map<number, string>;
}

/** The words of a stretch of a text by their places: words, numbers, single signs, pictures. */
export interface Words {
  of: RunText;
  starts: number[];
  ends: number[];
  /** Of each word a sum of its signs. */
  hashes: number[];
}

/** What is white space, begins or continues a word, is a digit, or a word of its own. */
const space = 1;
const letter = 2;
const inWord = 4;
const digit = 8;
const ideograph = 16;
const unknown = 255;

/** Kinds of the signs of the basic plane, found as they are met. */
const kinds = new Uint8Array(0x10000).fill(unknown);

/** Chinese and Japanese are written without spaces: each sign is compared on its own. */
const alone = /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}]/u;

function kindOfSign(sign: string): number {
  if (/\s/.test(sign)) return space;
  if (alone.test(sign)) return ideograph;
  if (/\p{N}/u.test(sign)) return digit | inWord;
  if (/\p{L}/u.test(sign)) return letter | inWord;
  return /[\p{M}'’_]/u.test(sign) ? inWord : 0;
}

/** Kind of the sign at a place of a text. */
function kindAt(text: string, at: number): number {
  const code = text.charCodeAt(at);
  const known = kinds[code] as number;
  if (known !== unknown) return known;
  const kind = kindOfSign(String.fromCodePoint(text.codePointAt(at) as number));
  // Half a sign says nothing of the whole one.
  if ((code & 0xf800) !== 0xd800) kinds[code] = kind;
  return kind;
}
/** Whether white space stands at a place of a text. */
export const isSpaceAt = (text: string, at: number): boolean => kindAt(text, at) === space;
/** Whether a word or number begins at a place of a text, and no other sign. */
export const isWordAt = (text: string, at: number): boolean =>
  (kindAt(text, at) & (letter | digit | ideograph)) !== 0;
const widthAt = (text: string, at: number): number => ((text.codePointAt(at) as number) < 0x10000 ? 1 : 2);

/** Where a number ends that begins at a place: digits, with a point or comma between digits. */
function endOfNumber(text: string, from: number): number {
  const isDigit = (at: number): boolean => at < text.length && (kindAt(text, at) & digit) !== 0;
  let at = from;
  for (;;) {
    if (isDigit(at)) at += widthAt(text, at);
    else if (/[.,]/.test(text.charAt(at)) && isDigit(at + 1)) at += 1;
    else return at;
  }
}

/** Where the signs of a kind end that begin at a place. */
function endOfKind(text: string, from: number, kind: number): number {
  let at = from;
  while (at < text.length) {
    const known = kinds[text.charCodeAt(at)] as number;
    if (((known === unknown ? kindAt(text, at) : known) & kind) === 0) break;
    at += known === unknown ? widthAt(text, at) : 1;
  }
  return at;
}

/** Where what begins at a place ends: a word, a number, a stretch of white space or a single sign. */
function endOfToken(text: string, from: number): number {
  const kind = kindAt(text, from);
  if (kind & digit) return endOfNumber(text, from);
  if (kind & letter) return endOfKind(text, from, inWord);
  return kind & space ? endOfKind(text, from, space) : from + widthAt(text, from);
}

/** Where the first word begins that stands at a place of a text or behind it, so many words on. */
export function nextWord(text: string, from: number, on = 0): number {
  let at = from;
  for (let word = 0; word < on && at < text.length; word += 1) at = endOfToken(text, at);
  return at < text.length && kindAt(text, at) === space ? endOfKind(text, at, space) : at;
}

/**
 * Cuts a text into words, numbers, stretches of white space and single signs; joined again they are the text.
 */
export function tokenize(text: string): string[] {
  const tokens: string[] = [];
  for (let at = 0; at < text.length;) {
    const end = endOfToken(text, at);
    tokens.push(text.slice(at, end));
    at = end;
  }
  return tokens;
}

/** What a run that is one word is the same by; null for a run of words. */
function keyOfWhole({ image, note, field }: Run): string | null {
  if (image) return `image ${image.hash} ${image.alt}|${image.width}x${image.height}`;
  if (note !== undefined) return 'note';
  return field ?? null;
}
/** Whether a run is one word, whatever its text: a picture, a note's mark, a field. */
export const isWhole = (run: Run): boolean => keyOfWhole(run) !== null;

/** The sign that stands for a picture, a note's mark or a field: OBJECT REPLACEMENT CHARACTER. */
const wholeSign = '\ufffc';

/** Lays runs behind one another, so that a word that is half bold is one word. */
export function textOfWords(given: readonly Run[]): RunText {
  const laid: RunText = { text: '', runs: [], starts: [], wholes: new Map() };
  for (const run of given) {
    const key = keyOfWhole(run);
    if (key === null && run.text === '') continue;
    laid.runs.push(run);
    laid.starts.push(laid.text.length);
    if (key !== null) laid.wholes.set(laid.text.length, key);
    laid.text += key === null ? run.text : wholeSign;
  }
  return laid;
}

/**
 * The words of a stretch of a text. Plain letters are gone through here, sign by sign: this is what comparing
 * long texts costs.
 */
export function wordsOf(of: RunText, from: number, to: number): Words {
  const { text } = of;
  const words: Words = { of, starts: [], ends: [], hashes: [] };
  const { starts, ends, hashes } = words;
  for (let at = from; at < to;) {
    let code = text.charCodeAt(at);
    const kind = kinds[code] as number;
    if (kind === space) {
      at += 1;
      continue;
    }
    const start = at;
    let hash = 0;
    if (kind === (letter | inWord)) {
      do {
        hash = (Math.imul(hash, 31) + code) | 0;
        at += 1;
        code = at < to ? text.charCodeAt(at) : plainSpace;
      } while (((kinds[code] as number) & inWord) !== 0 && kinds[code] !== unknown);
    }
    if (kind !== (letter | inWord) || kinds[code] === unknown) {
      if (kindAt(text, start) === space) {
        at += 1;
        continue;
      }
      const end = Math.min(to, endOfToken(text, start));
      for (; at < end; at += 1) hash = (Math.imul(hash, 31) + text.charCodeAt(at)) | 0;
    }
    starts.push(start);
    ends.push(at);
    hashes.push(hash);
  }
  return words;
}
const plainSpace = 0x20;
