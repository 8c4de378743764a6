import type { Refusal } from '../document/refusal.ts';
import { readCsv } from './csv/readCsv.ts';
import { readDocx } from './docx/readDocx.ts';
import type { ContentFacts } from '../document/version.ts';
import type { Layout } from './fileType.ts';
import { readMarkdown } from './markdown/readMarkdown.ts';
import { type Reading, readingLimits, tooMuchToRead } from './reading.ts';
import { readText } from './text/readText.ts';

const readers: Readonly<Record<Layout, (bytes: Uint8Array) => Reading | Refusal>> = {
  docx: readDocx,
  text: readText,
  markdown: readMarkdown,
  csv: readCsv,
};

/** Reads a file into blocks, as its type is laid out. Refuses one that is damaged or too large for a page. */
export const layOut = (bytes: Uint8Array, layout: Layout): Reading | Refusal => readers[layout](bytes);

/** Why a file of so many bytes is not laid out, before it is looked into; null where it has to be. */
export const tooLargeToLayOut = (layout: Layout, size: number): Refusal | null =>
  layout !== 'docx' && size > 4 * readingLimits.characters ? tooMuchToRead('characters') : null;

/**
 * Whether a sound file can be laid out, told by its facts alone: the words of a .docx are counted where it
 * is read, and a text with fewer bytes than there may be blocks cannot have more of them.
 */
export const surelyLaidOut = (
  layout: Layout,
  { size, words }: Pick<ContentFacts, 'size' | 'words'>,
): boolean => (layout === 'docx' ? words !== null : size <= readingLimits.blocks);
