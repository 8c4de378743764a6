import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type * as contract from '@polychron/contract';
import { refuse } from '@polychron/core';
import type { Request, Response } from 'express';
import Papa from 'papaparse';
import writeXlsx from 'write-excel-file/node';
import { Refused } from '../refused.ts';
import type { Page } from '../store/cursors.ts';

type Column<I> = readonly [head: string, width: number, value: (item: I) => string | Date];

/** A list that comes as a file: what it is called, and its columns. */
interface ListForm<I> {
  /** How a sentence begins that speaks of it. */
  name: string;
  fileName: string;
  sheet: string;
  columns: readonly Column<I>[];
}

const inForce: ListForm<contract.InForceList['items'][number]> = {
  name: 'What is in force',
  fileName: 'in-force',
  sheet: 'In force',
  columns: [
    ['Number', 14, ({ document }) => document.number],
    ['Title', 48, ({ document }) => document.title],
    ['Library', 24, ({ document }) => document.library.name],
    ['Type', 18, ({ type }) => type ?? ''],
    ['Subject', 30, ({ subject }) => subject.join(' / ')],
    ['Version', 10, ({ version }) => version],
    ['In force since', 18, ({ since }) => new Date(since)],
    ['Comment', 48, ({ comment }) => comment],
    ['File', 34, ({ fileName }) => fileName],
  ],
};

const readers: ListForm<contract.Distribution['items'][number]> = {
  name: 'Who is to read a document',
  fileName: 'distribution',
  sheet: 'Distribution',
  columns: [
    ['Name', 28, ({ person }) => person.name],
    ['Account', 18, ({ person }) => person.account],
    ['As one of', 28, ({ groups }) => groups],
    ['Asked since', 18, ({ since }) => new Date(since)],
    ['Confirmed', 18, ({ readAt }) => (readAt === null ? 'not yet' : new Date(readAt))],
  ],
};

/** The media type of a workbook (ECMA-376, part 1, 12.3). */
export const workbook = 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet';
const forms = ['application/json', 'text/csv', workbook] as const;

interface Exchange {
  req: Request;
  res: Response;
}
interface Listed<I> {
  items: I[];
  next: string | null;
}
type PageOf<L> = (page: Page) => Promise<L>;

/** Sends a list of what is in force as it is wanted. */
export const sendInForce = (exchange: Exchange, query: Page, pageOf: PageOf<contract.InForceList>) =>
  sendList(exchange, query, pageOf, inForce);

/** Sends the list of those who are to read a document as it is wanted. */
export const sendReaders = (exchange: Exchange, query: Page, pageOf: PageOf<contract.Distribution>) =>
  sendList(exchange, query, pageOf, readers);

/**
 * Sends a list as it is wanted: a page as JSON, or the whole of it as .csv (RFC 4180) or .xlsx.
 * @param query the page that is asked for
 * @throws Refused `form-not-available`
 */
async function sendList<I, L extends Listed<I>>(
  { req, res }: Exchange,
  query: Page,
  pageOf: PageOf<L>,
  list: ListForm<I>,
): Promise<L | undefined> {
  const form = forms.find((one) => one === req.accepts([...forms]));
  if (form === undefined) {
    const reason = `${list.name} comes as application/json, text/csv or ${workbook}.`;
    throw new Refused(refuse('invalid', 'form-not-available', reason));
  }
  res.vary('Accept');
  const { limit } = query;
  if (form === 'application/json') return pageOf({ cursor: query.cursor, limit });
  // What is refused is refused before anything is sent.
  const pages = allPages(await pageOf({ limit: longest }), pageOf);
  if (form === 'text/csv') {
    res.attachment(`${list.fileName}.csv`).type('text/csv');
    await pipeline(Readable.from(asCsv(pages, list.columns)), res);
    return undefined;
  }
  const items: I[] = [];
  for await (const page of pages) items.push(...page);
  const file = await asWorkbook(items, list);
  res.attachment(`${list.fileName}.xlsx`).type(workbook).send(file);
  return undefined;
}

/** Items that are read at once for a file. */
const longest = 200;

async function* allPages<I>(first: Listed<I>, pageOf: PageOf<Listed<I>>): AsyncGenerator<readonly I[]> {
  for (let page = first; ; page = await pageOf({ cursor: page.next, limit: longest })) {
    yield page.items;
    if (page.next === null) return;
  }
}

/** Lines as they are read. Texts that a spreadsheet would compute are kept from that. */
async function* asCsv<I>(
  pages: AsyncIterable<readonly I[]>,
  columns: readonly Column<I>[],
): AsyncGenerator<string> {
  const told = (value: string | Date): string => (value instanceof Date ? value.toISOString() : value);
  const lines = (table: string[][]): string => `${Papa.unparse(table, { escapeFormulae: true })}\r\n`;
  yield lines([columns.map(([head]) => head)]);
  for await (const items of pages) {
    if (items.length > 0) yield lines(items.map((item) => columns.map(([, , value]) => told(value(item)))));
  }
}

function asWorkbook<I>(items: readonly I[], { columns, sheet }: ListForm<I>): Promise<Buffer> {
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
    sheet,
  }).toBuffer();
}
