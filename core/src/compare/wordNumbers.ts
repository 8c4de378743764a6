import type { NumberedPair } from './editScript.ts';
import { isWordAt, textOfWords, type Words, wordsOf } from './tokens.ts';

/** Slots that are looked at for a word. */
const mostProbes = 32;

/**
 * Numbers for words, the same for words that are the same: an open hash table, at most half full. A word is
 * cut out of its text only where it is met first.
 */
export class Numbering {
  private count = 0;
  private room = 64;
  /** Of each slot the sum of its word and its number, from 1. */
  private hashes = new Int32Array(this.room);
  private slots = new Int32Array(this.room);
  /** Of each number its word. */
  private readonly first: string[] = [];
  private readonly wholes = new Map<string, number>();
  /** Words that found no slot: whoever picks words of one sum shall not slow a comparison down. */
  private readonly crowded = new Map<string, number>();

  /** Numbers of the words of two texts, and how many numbers there are by then. */
  of(a: Words, b: Words): NumberedPair {
    return { a: this.numbersOf(a), b: this.numbersOf(b), count: this.count };
  }

  /** Numbers of the words of a text, signs left out, in rising order: which words it has, and how often. */
  bagOf(text: string): Int32Array {
    const words = wordsOf(textOfWords([{ text }]), 0, text.length);
    return this.numbersOf(words)
      .filter((_, at) => isWordAt(text, words.starts[at] as number))
      .sort();
  }

  private numbersOf(words: Words): Int32Array {
    const { wholes } = words.of;
    const numbers = new Int32Array(words.starts.length);
    for (let at = 0; at < words.starts.length; at += 1) {
      const whole = wholes.size > 0 ? wholes.get(words.starts[at] as number) : undefined;
      numbers[at] = whole === undefined ? this.numberOf(words, at) : this.numberIn(this.wholes, whole);
    }
    return numbers;
  }

  /** The number of a word that is kept in no slot. */
  private numberIn(words: Map<string, number>, word: string): number {
    const known = words.get(word);
    if (known !== undefined) return known;
    words.set(word, this.count);
    return this.add(word);
  }

  private add(word: string): number {
    this.first.push(word);
    this.count += 1;
    return this.count - 1;
  }

  private numberOf({ of: { text }, starts, ends, hashes }: Words, at: number): number {
    const hash = hashes[at] as number;
    const start = starts[at] as number;
    const length = (ends[at] as number) - start;
    let slot = this.slotOf(hash);
    for (let probe = 0; probe < mostProbes; probe += 1) {
      const taken = this.slots[slot] as number;
      if (taken === 0) return this.addTo(slot, hash, text.slice(start, start + length));
      if (this.hashes[slot] === hash && isAt(text, start, length, this.first[taken - 1] as string))
        return taken - 1;
      slot = (slot + 1) & (this.room - 1);
    }
    return this.numberIn(this.crowded, text.slice(start, start + length));
  }

  /** The number of a word whose slot is free: one that had none may be known among the crowded. */
  private addTo(slot: number, hash: number, word: string): number {
    const known = this.crowded.size > 0 ? this.crowded.get(word) : undefined;
    if (known !== undefined) return known;
    const number = this.add(word);
    this.hashes[slot] = hash;
    this.slots[slot] = number + 1;
    if (this.count * 2 > this.room) this.widen();
    return number;
  }

  private slotOf(hash: number): number {
    return (Math.imul(hash, 0x9e3779b1) >>> 8) & (this.room - 1);
  }

  private widen(): void {
    const { hashes, slots } = this;
    this.room *= 4;
    this.hashes = new Int32Array(this.room);
    this.slots = new Int32Array(this.room);
    for (const [at, taken] of slots.entries()) if (taken !== 0) this.move(hashes[at] as number, taken);
  }

  private move(hash: number, taken: number): void {
    let slot = this.slotOf(hash);
    for (let probe = 0; probe < mostProbes; probe += 1) {
      if (this.slots[slot] === 0) {
        this.slots[slot] = taken;
        this.hashes[slot] = hash;
        return;
      }
      slot = (slot + 1) & (this.room - 1);
    }
    this.crowded.set(this.first[taken - 1] as string, taken - 1);
  }
}

/** Whether a word stands at a place of a text. */
function isAt(text: string, start: number, length: number, word: string): boolean {
  if (word.length !== length) return false;
  for (let at = 0; at < length; at += 1)
    if (text.charCodeAt(start + at) !== word.charCodeAt(at)) return false;
  return true;
}
