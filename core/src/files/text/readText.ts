import type { Refusal } from '../../document/refusal.ts';
import { type Reading, readingLimits, tooMuchToRead } from '../reading.ts';
import { decodeText, withEnding } from './encoding.ts';

/** The text of a file as it is read: line ends of one kind, none behind the last line. */
export const plainText = (bytes: Uint8Array): string =>
  withEnding(decodeText(bytes).text, '\n').replace(/\n$/, '');

/** Reads a text file: a paragraph a line; refuses more lines or characters than are read in a page. */
export function readText(bytes: Uint8Array): Reading | Refusal {
  if (bytes.length > 4 * readingLimits.characters) return tooMuchToRead('characters');
  const { encoding } = decodeText(bytes).form;
  const text = plainText(bytes);
  if (text.length > readingLimits.characters) return tooMuchToRead('characters');
  const lines = text.split('\n', readingLimits.blocks + 1);
  if (lines.length > readingLimits.blocks) return tooMuchToRead('paragraphs');
  return {
    format: 'text',
    encoding,
    margins: [],
    notes: [],
    blocks: lines.map((line) => ({ kind: 'paragraph', level: 0, runs: line === '' ? [] : [{ text: line }] })),
  };
}
