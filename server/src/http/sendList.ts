import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type * as contract from '@polychron/contract';
import { refuse } from '@polychron/core';
import type { Request, Response } from 'express';
import Papa from 'papaparse';
import writeXlsx from 'write-excel-file/node';
import { Refused } from '../refused.ts';
import type { Page } from '../store/cursors.ts';

type Item = contract.InForceList['items'][number];

/** The columns of the list of what is in force. */
const columns: readonly [head: string, width: number, value: (item: Item) => string | Date][] = [
  ['Number', 14, ({ document }) => document.number],
  ['Title', 48, ({ document }) => document.title],
  ['Library', 24, ({ document }) => document.library.name],
  ['Type', 18, ({ type }) => type ?? ''],
  ['Subject', 30, ({ subject }) => subject.join(' / ')],
  ['Version', 10, ({ version }) => version],
  ['In force since', 18, ({ since }) => new Date(since)],
  ['Comment', 48, ({ comment }) => comment],
  ['File', 34, ({ fileName }) => fileName],
];

/** The media type of a workbook (ECMA-376, part 1, 12.3). */
export const workbook = 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet';
const forms = ['application/json', 'text/csv', workbook] as const;

/**
 * Sends a list of what is in force as it is wanted: a page as JSON, or the whole of it as .csv (RFC 4180) or
 * .xlsx.
 * @param query the page that is asked for
 * @throws Refused `form-not-available`
 */
export async function sendInForce(
  { req, res }: { req: Request; res: Response },
  query: Page,
  pageOf: (page: Page) => Promise<contract.InForceList>,
): Promise<contract.InForceList | undefined> {
  const form = forms.find((one) => one === req.accepts([...forms]));
  if (form === undefined) {
    const reason = `What is in force comes as application/json, text/csv or ${workbook}.`;
    throw new Refused(refuse('invalid', 'form-not-available', reason));
  }
  res.vary('Accept');
  const { limit } = query;
  if (form === 'application/json') return pageOf({ cursor: query.cursor, limit });
  // What is refused is refused before anything is sent.
  const pages = allPages(await pageOf({ limit: longest }), pageOf);
  if (form === 'text/csv') {
    res.attachment('in-force.csv').type('text/csv');
    await pipeline(Readable.from(asCsv(pages)), res);
    return undefined;
  }
  const items: Item[] = [];
  for await (const page of pages) items.push(...page);
  const file = await asWorkbook(items);
  res.attachment('in-force.xlsx').type(workbook).send(file);
  return undefined;
}

/** Items that are read at once for a file. */
const longest = 200;

async function* allPages(
  first: contract.InForceList,
  pageOf: (page: Page) => Promise<contract.InForceList>,
): AsyncGenerator<readonly Item[]> {
  for (let page = first; ; page = await pageOf({ cursor: page.next, limit: longest })) {
    yield page.items;
    if (page.next === null) return;
  }
}

/** Lines as they are read. Texts that a spreadsheet would compute are kept from that. */
async function* asCsv(pages: AsyncIterable<readonly Item[]>): AsyncGenerator<string> {
  const told = (value: string | Date): string => (value instanceof Date ? value.toISOString() : value);
  const lines = (table: string[][]): string => `${Papa.unparse(table, { escapeFormulae: true })}\r\n`;
  yield lines([columns.map(([head]) => head)]);
  for await (const items of pages) {
    if (items.length > 0) yield lines(items.map((item) => columns.map(([, , value]) => told(value(item)))));
  }
}

function asWorkbook(items: readonly Item[]): Promise<Buffer> {
  const heads = columns.map(([value]) => ({ value, fontWeight: 'bold' as const }));
  const table = items.map((item) =>
    columns.map(([, , of]) => {
      const value = of(item);
      return value instanceof Date
        ? { value, type: Date, format: 'yyyy-mm-dd hh:mm' }
        : { value, type: String };
    }),
  );
  return writeXlsx([heads, ...table], {
    columns: columns.map(([, width]) => ({ width })),
    stickyRowsCount: 1,
    sheet: 'In force',
  }).toBuffer();
}
