import MarkdownIt, { type Token } from 'markdown-it';
import { isRefusal, type Refusal } from '../../document/refusal.ts';
import {
  type Block,
  boundReading,
  type Reading,
  type Run,
  type TableBlock,
  type TextBlock,
  sameStyle,
} from '../reading.ts';
import { decodeText } from '../text/encoding.ts';
import { plainText, readText } from '../text/readText.ts';

// HTML inside a text is shown as text: nobody's file brings code into the page.
const parser = new MarkdownIt({ html: false, linkify: false });

/** Reads Markdown (CommonMark, with tables and strikethrough) as it is set. */
export function readMarkdown(bytes: Uint8Array): Reading | Refusal {
  const asText = readText(bytes);
  if (isRefusal(asText)) return asText;
  const { encoding } = decodeText(bytes).form;
  const blocks = blocksOfMarkdown(plainText(bytes));
  return boundReading({ format: 'markdown', encoding, margins: [], notes: [], blocks });
}

/** Facts about a document that some programs write before its text, between lines of three dashes. */
const frontMatter = /^---\n([^]*?\n)(?:---|\.\.\.)(?:\n|$)/;

/** The blocks of a text in Markdown. */
export function blocksOfMarkdown(text: string): Block[] {
  const front = frontMatter.exec(text);
  const walk = new Walk();
  if (front) walk.addCode(front[1] ?? '');
  for (const token of parser.parse(front ? text.slice(front[0].length) : text, {})) walk.take(token);
  return walk.blocks;
}

interface List {
  kind: 'number' | 'bullet';
  /** Number of the item that comes next. */
  next: number;
}

/** Points that a quotation stands further in. */
const quoteIndent = 24;

/** Goes through the tokens of a text and lays out blocks. */
class Walk {
  readonly blocks: Block[] = [];
  private readonly lists: List[] = [];
  private quotes = 0;
  /** The mark of an item whose first paragraph is still to come. */
  private mark: string | null = null;
  private heading = 0;
  private table: TableBlock | null = null;
  private isHead = false;
  private cellAlign: TextBlock['align'];

  take(token: Token): void {
    const step = this.steps[token.type];
    if (step) step(token);
    else if (token.type === 'inline') this.addInline(token);
    else if (token.type === 'fence' || token.type === 'code_block') this.addCode(token.content);
  }

  private readonly steps: Readonly<Record<string, (token: Token) => void>> = {
    heading_open: ({ tag }) => (this.heading = Number(tag.slice(1))),
    heading_close: () => (this.heading = 0),
    bullet_list_open: () => this.lists.push({ kind: 'bullet', next: 0 }),
    ordered_list_open: (token) =>
      this.lists.push({ kind: 'number', next: Number(token.attrGet('start') ?? 1) }),
    bullet_list_close: () => this.lists.pop(),
    ordered_list_close: () => this.lists.pop(),
    list_item_open: ({ markup }) => this.beginItem(markup),
    list_item_close: () => (this.mark = null),
    blockquote_open: () => (this.quotes += 1),
    blockquote_close: () => (this.quotes -= 1),
    hr: () => this.add({ kind: 'paragraph', level: 0, align: 'center', runs: [{ text: '⁂' }] }),
    table_open: () => (this.table = { kind: 'table', rows: [] }),
    table_close: () => this.endTable(),
    thead_open: () => (this.isHead = true),
    thead_close: () => (this.isHead = false),
    tr_open: () => this.table?.rows.push({ header: this.isHead, cells: [] }),
    th_open: (token) => (this.cellAlign = alignOf(token)),
    td_open: (token) => (this.cellAlign = alignOf(token)),
  };

  private beginItem(markup: string): void {
    const list = this.lists.at(-1);
    if (!list) return;
    this.mark = list.kind === 'number' ? `${list.next}${markup}` : '•';
    list.next += 1;
  }

  private endTable(): void {
    if (this.table) this.blocks.push(this.table);
    this.table = null;
  }

  private addInline({ children }: Token): void {
    const runs = runsOf(children ?? []);
    const row = this.table?.rows.at(-1);
    if (row) {
      if (row.header) for (const run of runs) run.bold = true;
      const align = this.cellAlign ? { align: this.cellAlign } : {};
      row.cells.push({ blocks: [{ kind: 'paragraph', level: 0, runs, ...align }], columns: 1, rows: 1 });
    } else if (this.heading > 0) this.add({ kind: 'heading', level: this.heading, runs });
    else this.addParagraph(runs);
  }

  /** A paragraph; the first of an item with its mark, those after it as far in. */
  private addParagraph(runs: Run[]): void {
    const list = this.lists.at(-1);
    if (!list) this.add({ kind: 'paragraph', level: 0, runs });
    else {
      const marker = this.mark === null ? {} : { marker: this.mark };
      this.add({ kind: 'listItem', level: this.lists.length - 1, list: list.kind, runs, ...marker });
      this.mark = null;
    }
  }

  /** Text that stands as it is typed. */
  addCode(content: string): void {
    this.addParagraph([{ text: content.replace(/\n$/, ''), code: true }]);
  }

  private add(block: TextBlock): void {
    const indent = this.quotes > 0 && !block.indent ? { indent: this.quotes * quoteIndent } : {};
    this.blocks.push({ ...block, ...indent });
  }
}

function alignOf(token: Token): TextBlock['align'] {
  const [, align] = /text-align:\s*(left|center|right)/.exec(String(token.attrGet('style') ?? '')) ?? [];
  return align as TextBlock['align'];
}

/** Styles that a token begins or ends. */
const styles: Readonly<Record<string, Partial<Run>>> = {
  strong: { bold: true },
  em: { italic: true },
  s: { strike: true },
};

/** Runs of a line of Markdown: a line end within a paragraph is a space. */
function runsOf(tokens: readonly Token[]): Run[] {
  const runs: Run[] = [];
  let style: Partial<Run> = {};
  let link: Partial<Run> = {};
  const add = (text: string, more: Partial<Run> = {}): void => {
    if (text !== '') runs.push({ text, ...style, ...link, ...more });
  };
  for (const token of tokens) {
    const [name = '', edge] = token.type.split('_');
    const named = styles[name];
    if (named && edge === 'open') style = { ...style, ...named };
    else if (named) style = without(style, named);
    else if (token.type === 'link_open') link = linkTo(String(token.attrGet('href') ?? ''));
    else if (token.type === 'link_close') link = {};
    else if (token.type === 'code_inline') add(token.content, { code: true });
    else if (token.type === 'softbreak') add(' ');
    else if (token.type === 'hardbreak') add('\n');
    else if (token.type === 'image')
      add(`[picture: ${token.content}]`, linkTo(String(token.attrGet('src') ?? '')));
    else add(token.content);
  }
  return joined(runs);
}

const without = (style: Partial<Run>, gone: Partial<Run>): Partial<Run> =>
  Object.fromEntries(Object.entries(style).filter(([key]) => !(key in gone)));

/** An address that a page may lead to; others are told and not followed. */
const linkTo = (address: string): Partial<Run> =>
  /^(?:https?|mailto):/i.test(address) ? { href: address } : { target: address };

/** Neighbours of one style as one run. */
function joined(runs: readonly Run[]): Run[] {
  const made: Run[] = [];
  for (const run of runs) {
    const last = made.at(-1);
    if (last && sameStyle(last, run)) last.text += run.text;
    else made.push({ ...run });
  }
  return made;
}
