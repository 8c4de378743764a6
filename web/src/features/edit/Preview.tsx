import { type Block, blocksOfMarkdown, tableOf } from '@polychron/core';
import { useDeferredValue, useMemo } from 'react';
import { Blocks } from '../../parts/reading/Blocks.tsx';

/** Rows of a table shown beside the text. */
const mostRows = 500;
/** A text's own pictures would be fetched from elsewhere: none is shown. */
const showing = { picture: () => '' };

/** A text as it reads: Markdown set, a .csv as a table, others by paragraphs. */
export function Preview({ text, name }: { text: string; name: string }) {
  const shown = useDeferredValue(text);
  const blocks = useMemo(() => blocksOf(shown, name), [shown, name]);
  const isCut = blocks.some((block) => block.kind === 'table' && block.rows.length > mostRows);
  return (
    <div className="sheet preview" tabIndex={0} role="region" aria-label="As it reads">
      <Blocks blocks={blocks.map(cut)} showing={showing} />
      {isCut && <p className="muted">The first {mostRows} rows.</p>}
    </div>
  );
}

function blocksOf(text: string, name: string): Block[] {
  if (/\.md$/i.test(name)) return blocksOfMarkdown(text);
  const table = /\.csv$/i.test(name) ? tableOf(text) : null;
  if (table) return [table];
  return text
    .split(/\n{2,}/)
    .map((paragraph) => ({ kind: 'paragraph', level: 0, runs: [{ text: paragraph }] }));
}

const cut = (block: Block): Block =>
  block.kind === 'table' ? { ...block, rows: block.rows.slice(0, mostRows) } : block;
