import type { Reading } from '../reading.ts';

/** Reads a text file (UTF-8, with or without a byte order mark): a paragraph a line. */
export function readText(bytes: Uint8Array): Reading {
  const lines = new TextDecoder().decode(bytes).replace(/\r\n?/g, '\n').replace(/\n$/, '').split('\n');
  return {
    format: 'text',
    margins: [],
    notes: [],
    blocks: lines.map((line) => ({ kind: 'paragraph', level: 0, runs: line === '' ? [] : [{ text: line }] })),
  };
}
