import type { Refusal } from '../../document/refusal.ts';
import { type Reading, readingLimits, tooMuchToRead } from '../reading.ts';

/** A text as it stands in a file (UTF-8, with or without a byte order mark), with line ends of one kind. */
export const decodeText = (bytes: Uint8Array): string =>
  new TextDecoder().decode(bytes).replace(/\r\n?/g, '\n').replace(/\n$/, '');

/** Reads a text file: a paragraph a line; refuses more lines or characters than are read in a page. */
export function readText(bytes: Uint8Array): Reading | Refusal {
  if (bytes.length > 4 * readingLimits.characters) return tooMuchToRead('characters');
  const text = decodeText(bytes);
  if (text.length > readingLimits.characters) return tooMuchToRead('characters');
  const lines = text.split('\n', readingLimits.blocks + 1);
  if (lines.length > readingLimits.blocks) return tooMuchToRead('paragraphs');
  return {
    format: 'text',
    margins: [],
    notes: [],
    blocks: lines.map((line) => ({ kind: 'paragraph', level: 0, runs: line === '' ? [] : [{ text: line }] })),
  };
}
