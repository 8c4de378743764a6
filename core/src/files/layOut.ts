import type { Refusal } from '../document/refusal.ts';
import { readCsv } from './csv/readCsv.ts';
import { readDocx } from './docx/readDocx.ts';
import type { Layout } from './fileType.ts';
import { readMarkdown } from './markdown/readMarkdown.ts';
import type { Reading } from './reading.ts';
import { readText } from './text/readText.ts';

const readers: Readonly<Record<Layout, (bytes: Uint8Array) => Reading | Refusal>> = {
  docx: readDocx,
  text: readText,
  markdown: readMarkdown,
  csv: readCsv,
};

/** Reads a file into blocks, as its type is laid out. Refuses one that is damaged or too large for a page. */
export const layOut = (bytes: Uint8Array, layout: Layout): Reading | Refusal => readers[layout](bytes);
