import Papa from 'papaparse';
import type { Refusal } from '../../document/refusal.ts';
import { isRefusal } from '../../document/refusal.ts';
import { type Block, type Reading, readingLimits, type TableBlock } from '../reading.ts';
import { decodeText } from '../text/encoding.ts';
import { plainText, readText } from '../text/readText.ts';

/** How columns are parted: comma (RFC 4180), semicolon, tab or bar, whichever parts the text best. */
const delimiters = [',', ';', '\t', '|'];

/**
 * A text of values parted by commas as a table, the first row as its head (RFC 4180, section 2). Null where
 * it is none: quotes that do not close, or more cells than are read in a page.
 */
export function tableOf(text: string): TableBlock | null {
  const { data, errors } = Papa.parse<string[]>(text, {
    delimitersToGuess: delimiters,
    skipEmptyLines: true,
  });
  if (errors.some(({ type }) => type === 'Quotes')) return null;
  if (data.reduce((cells, row) => cells + row.length, 0) > readingLimits.blocks) return null;
  return {
    kind: 'table',
    rows: data.map((row, at) => ({ header: at === 0, cells: row.map((value) => cellOf(value, at === 0)) })),
  };
}

const cellOf = (value: string, isHead: boolean): TableBlock['rows'][number]['cells'][number] => {
  const runs = value === '' ? [] : [{ text: value, ...(isHead ? { bold: true } : {}) }];
  const block: Block = { kind: 'paragraph', level: 0, runs };
  return { blocks: [block], columns: 1, rows: 1 };
};

/** Reads a .csv as a table; as lines of text where it is no table. Refuses what is too large for a page. */
export function readCsv(bytes: Uint8Array): Reading | Refusal {
  const asText = readText(bytes);
  if (isRefusal(asText)) return asText;
  const table = tableOf(plainText(bytes));
  if (!table || table.rows.length === 0) return asText;
  const { encoding } = decodeText(bytes).form;
  return { format: 'table', encoding, margins: [], notes: [], blocks: [table] };
}
