import type { Reading } from '@polychron/contract';
import type { Block, Margin, TextBlock } from '@polychron/core';
import { day } from '../../ui/when.ts';
import { Blocks, Runs, type Showing } from './Blocks.tsx';

/** A version as it reads: a sheet a page, each with the headers and footers of the file. */
export function Sheets({ reading, picture }: { reading: Reading; picture: Showing['picture'] }) {
  const pages = splitPages(reading.blocks);
  return pages.map((blocks, index) => {
    const page = { number: index + 1, total: pages.length };
    const showing = { picture, page };
    return (
      <article
        key={index}
        className={`sheet sheet-${reading.format}`}
        aria-label={pages.length > 1 ? `Page ${page.number} of ${page.total}` : 'Text'}
      >
        <PageMargin margin={marginOf(reading.margins, 'header', page.number)} showing={showing} />
        <div className="sheet-body">
          <Blocks blocks={blocks} showing={showing} />
        </div>
        {page.number === pages.length && reading.notes.length > 0 && (
          <ol className="notes" aria-label="Notes">
            {reading.notes.map((note) => (
              <li key={note.number} value={note.number}>
                <Blocks blocks={note.blocks} showing={showing} />
              </li>
            ))}
          </ol>
        )}
        {page.number === pages.length && reading.comments && reading.comments.length > 0 && (
          <ol className="notes" aria-label="Comments">
            {reading.comments.map((comment) => (
              <li key={comment.number} value={comment.number}>
                <strong>{comment.author || 'Comment'}</strong>
                {comment.at && <span className="muted"> {day(comment.at)}</span>}
                <Blocks blocks={comment.blocks} showing={showing} />
              </li>
            ))}
          </ol>
        )}
        <PageMargin margin={marginOf(reading.margins, 'footer', page.number)} showing={showing} />
      </article>
    );
  });
}

function splitPages(blocks: readonly Block[]): Block[][] {
  const pages: Block[][] = [[]];
  for (const block of blocks) {
    if (block.kind === 'pageBreak') {
      if (pages.at(-1)?.length) pages.push([]);
    } else pages.at(-1)?.push(block);
  }
  return pages.length > 1 && pages.at(-1)?.length === 0 ? pages.slice(0, -1) : pages;
}

/** The header or footer of a page: the first page's own, the even pages' own, else that of all pages. */
function marginOf(margins: readonly Margin[], kind: Margin['kind'], page: number): Margin | undefined {
  const ofKind = margins.filter((margin) => margin.kind === kind);
  const parity = page % 2 === 0 ? 'even' : 'default';
  const special = page === 1 ? 'first' : parity;
  return (
    ofKind.find((margin) => margin.pages === special) ?? ofKind.find((margin) => margin.pages === 'default')
  );
}

function PageMargin({ margin, showing }: { margin: Margin | undefined; showing: Showing }) {
  if (!margin || margin.blocks.length === 0) return null;
  const Tag = margin.kind;
  return (
    <Tag className="sheet-margin">
      {margin.blocks.map((block, index) =>
        block.kind === 'table' || block.kind === 'pageBreak' ? (
          <Blocks key={index} blocks={[block]} showing={showing} />
        ) : (
          <MarginLine key={index} block={block} showing={showing} />
        ),
      )}
    </Tag>
  );
}

/** A line whose tabs push its parts to the left, the middle and the right. */
function MarginLine({ block, showing }: { block: TextBlock; showing: Showing }) {
  const parts: TextBlock['runs'][] = [[]];
  for (const run of block.runs) {
    run.text.split('\t').forEach((text, index) => {
      if (index > 0) parts.push([]);
      if (text !== '' || run.image) parts.at(-1)?.push({ ...run, text });
    });
  }
  return (
    <p style={{ justifyContent: parts.length === 1 ? (block.align ?? 'left') : undefined }}>
      {parts.map((runs, index) => (
        <span key={index}>
          <Runs runs={runs} showing={showing} />
        </span>
      ))}
    </p>
  );
}
