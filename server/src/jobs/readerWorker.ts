import { readFile } from 'node:fs/promises';
import {
  compare, countWords, isRefusal, openDocx, readDocx, readText, textOfReading, verifyParts, type Comparison, type Reading, type Refusal, type Side,
} from '@polychron/core';

type Reader = 'docx' | 'text';
export type Task =
  | { kind: 'inspect'; path: string; reader: Reader }
  | { kind: 'read'; bytes: Uint8Array; reader: Reader }
  | { kind: 'compare'; older: Side; newer: Side };
export type Answer = { words: number } | Reading | Comparison | Refusal;

/** What runs in a reading thread: computation only, no database. */
export default async function work(task: Task): Promise<Answer> {
  if (task.kind === 'compare') return compare(task.older, task.newer);
  if (task.kind === 'read') return read(task.bytes, task.reader);
  const bytes = await readFile(task.path);
  if (task.reader === 'docx') {
    const pack = openDocx(bytes);
    const damage = isRefusal(pack) ? pack : verifyParts(pack);
    if (damage) return damage;
  }
  const reading = read(bytes, task.reader);
  return isRefusal(reading) ? reading : { words: countWords(textOfReading(reading)) };
}

function read(bytes: Uint8Array, reader: Reader): Reading | Refusal {
  return reader === 'docx' ? readDocx(bytes) : readText(bytes);
}
