import type {
  Block,
  ComparedBlock,
  ComparedRow,
  ComparedRun,
  Run,
  TableBlock,
  Tracked,
} from '@polychron/core';
import type { CSSProperties, ReactNode } from 'react';
import { Scrolling } from '../../ui/Scrolling.tsx';
import { day } from '../../ui/when.ts';
import { asOn } from './asOn.ts';
import './reading.css';

type AnyBlock = Block | ComparedBlock;
type AnyRun = Run & Partial<Pick<ComparedRun, 'status'>>;

/** What the blocks are shown with. */
export interface Showing {
  /** The address of a picture by its part's name; in a comparison that of the older side where it is gone. */
  picture: (part: string, isGone?: boolean) => string;
  page?: { number: number; total: number };
  /** In a comparison: the sides shown, and the change stepped to. */
  sides?: 'both' | 'older' | 'newer';
  change?: number | null;
}

/** Blocks of a file as a page shows them; in a comparison with what is gone and what is new. */
export function Blocks({ blocks, showing }: { blocks: readonly AnyBlock[]; showing: Showing }): ReactNode {
  return blocks.map((block, index) => {
    if ('status' in block && hidden(block, showing)) return null;
    if (block.kind !== 'pageBreak')
      return <OneBlock key={index} block={asOn(block, showing.sides)} showing={showing} />;
    return 'status' in block && block.status !== 'same' ? (
      <Break key={index} {...marksOf(block, showing)} />
    ) : null;
  });
}

const sideOf = (status: string | undefined): 'older' | 'newer' | null => {
  if (status === 'deleted' || status === 'movedAway') return 'older';
  return status === 'inserted' || status === 'moved' ? 'newer' : null;
};
function hidden(block: { status?: string }, showing: Showing): boolean {
  const side = sideOf(block.status);
  return side !== null && showing.sides !== undefined && showing.sides !== 'both' && showing.sides !== side;
}

/** How a block of a comparison is marked. */
function marksOf(block: AnyBlock, showing: Showing) {
  const status = 'status' in block ? block.status : undefined;
  const change = 'change' in block ? block.change : null;
  const names = [
    status && status !== 'same' ? `c-block c-${status}` : '',
    change !== null && change === showing.change ? 'c-current' : '',
  ];
  return { className: names.filter(Boolean).join(' ') || undefined, 'data-change': change ?? undefined };
}

/** A page break that came or went. */
const Break = (marks: ReturnType<typeof marksOf>): ReactNode => (
  <p {...marks} className={`page-break ${marks.className ?? ''}`}>
    page break
  </p>
);

function OneBlock({ block, showing }: { block: Exclude<AnyBlock, { kind: 'pageBreak' }>; showing: Showing }) {
  const marks = marksOf(block, showing);
  if (block.kind === 'table') return <Table table={block} marks={marks} showing={showing} />;
  const content = <Runs runs={block.runs} showing={showing} />;
  const direction = block.direction ?? 'auto';
  const style: CSSProperties = {
    ...(block.align ? { textAlign: block.align } : {}),
    ...(block.indent && block.kind === 'paragraph'
      ? { paddingInlineStart: `${Math.max(0, Math.min(200, block.indent))}pt` }
      : {}),
  };
  if (block.kind === 'heading') {
    const Tag = block.level === 0 ? 'h2' : (`h${Math.min(6, block.level + 2)}` as 'h3');
    return (
      <Tag {...marks} style={style} data-level={block.level} dir={direction}>
        {block.marker && `${block.marker} `}
        {content}
      </Tag>
    );
  }
  if (block.kind === 'listItem') {
    return (
      <div
        {...marks}
        className={`item ${marks.className ?? ''}`}
        dir={block.direction}
        style={{ ...style, marginInlineStart: `${block.level * 1.4}em` }}
      >
        <span className="item-mark">{block.marker}</span>
        <span dir={direction}>{content}</span>
      </div>
    );
  }
  return (
    <p {...marks} style={style} dir={direction}>
      {content}
      {block.runs.length === 0 && '\u00a0'}
    </p>
  );
}

function Table({
  table,
  marks,
  showing,
}: {
  table: TableBlock | Extract<ComparedBlock, { kind: 'table' }>;
  marks: ReturnType<typeof marksOf>;
  showing: Showing;
}) {
  return (
    <Scrolling {...marks} className={`table-frame ${marks.className ?? ''}`} label="Table">
      <table dir={table.direction}>
        <tbody>
          {table.rows.map((row, index) => {
            const { status, change } = row as Partial<ComparedRow>;
            if (hidden(status ? { status } : {}, showing)) return null;
            const Cell = row.header ? 'th' : 'td';
            return (
              <tr
                key={index}
                className={[
                  status && status !== 'same' && status !== 'changed' ? `c-row c-${status}` : '',
                  change && change === showing.change ? 'c-current' : '',
                ].join(' ')}
                data-change={change ?? undefined}
              >
                {row.cells.map((cell, place) =>
                  'status' in cell && hidden(cell, showing) ? null : (
                    <Cell key={place} colSpan={cell.columns} rowSpan={cell.rows}>
                      <Blocks blocks={cell.blocks} showing={showing} />
                    </Cell>
                  ),
                )}
              </tr>
            );
          })}
        </tbody>
      </table>
    </Scrolling>
  );
}

/** Runs of text; what is gone is struck, what is new underlined, in words for whoever hears it. */
export function Runs({ runs, showing }: { runs: readonly AnyRun[]; showing: Showing }): ReactNode {
  return runs.map((run, index) => {
    if (hidden(run.status ? { status: run.status } : {}, showing)) return null;
    const inner = <OneRun key={index} run={run} showing={showing} />;
    if (run.status === 'deleted') return <del key={index}>{inner}</del>;
    if (run.status === 'inserted') return <ins key={index}>{inner}</ins>;
    return inner;
  });
}

/** Words of a change that is tracked in the file and not accepted; who made it and when, at the mark. */
function TrackedRun({ tracked, children }: { tracked: Tracked; children: ReactNode }): ReactNode {
  const isGone = tracked.gone !== undefined;
  const who = [tracked.by && `by ${tracked.by}`, tracked.at && day(tracked.at)].filter(Boolean).join(', ');
  return (
    <span
      role={isGone ? 'deletion' : 'insertion'}
      className={isGone ? 'tracked tracked-out' : 'tracked tracked-in'}
      title={`${isGone ? 'Taken out' : 'Put in'}${who && ` ${who}`}: a tracked change, not accepted`}
    >
      {children}
    </span>
  );
}

function OneRun({ run, showing }: { run: AnyRun; showing: Showing }): ReactNode {
  if (run.image) {
    const { part, alt, width, height } = run.image;
    return (
      <img
        src={showing.picture(part, run.status === 'deleted')}
        alt={alt}
        style={{
          width: width ?? undefined,
          aspectRatio: width && height ? `${width} / ${height}` : undefined,
        }}
      />
    );
  }
  if (run.field) return run.field === 'page' ? (showing.page?.number ?? '#') : (showing.page?.total ?? '#');
  let shown: ReactNode = run.tracked?.gone ?? run.text;
  if (run.note !== undefined) return <sup className="note-mark">{run.text}</sup>;
  if (run.comment !== undefined)
    return (
      <sup className="note-mark" title="A comment, below">
        [{run.comment}]
      </sup>
    );
  if (run.code) shown = <code>{shown}</code>;
  if (run.bold) shown = <strong>{shown}</strong>;
  if (run.italic) shown = <em>{shown}</em>;
  if (run.underline) shown = <u>{shown}</u>;
  if (run.strike) shown = <s>{shown}</s>;
  if (run.caps) shown = <span className={`caps-${run.caps}`}>{shown}</span>;
  if (run.highlight) shown = <mark>{shown}</mark>;
  if (run.vertical === 'super') shown = <sup>{shown}</sup>;
  if (run.vertical === 'sub') shown = <sub>{shown}</sub>;
  if (run.href)
    shown = (
      <a href={run.href} rel="noreferrer noopener" target="_blank">
        {shown}
      </a>
    );
  return run.tracked ? <TrackedRun tracked={run.tracked}>{shown}</TrackedRun> : shown;
}
