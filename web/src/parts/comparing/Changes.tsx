import type { Comparison } from '@polychron/contract';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useLayoutEffect, useRef } from 'react';

type Change = Comparison['changes'][number];

const kinds = {
  inserted: 'new',
  deleted: 'gone',
  changed: 'changed',
  moved: 'moved',
  restyled: 'restyled',
} as const;

/** How many changes of which kind, and how many words. */
export function Counts({ counts, total }: { counts: Comparison['counts']; total: number }) {
  if (total === 0)
    return <span className="counts">No difference in text, tables, headers, footers or fields.</span>;
  const parts = (Object.keys(kinds) as (keyof typeof kinds)[])
    .filter((kind) => counts[kind] > 0)
    .map((kind) => `${counts[kind]} ${kinds[kind]}`);
  return (
    <span className="counts">
      <strong>
        {total} {total === 1 ? 'change' : 'changes'}
      </strong>
      : {parts.join(', ')} · {counts.wordsDeleted} {counts.wordsDeleted === 1 ? 'word' : 'words'} out,{' '}
      {counts.wordsInserted} in
    </span>
  );
}

/** What a change is: "new table row", "header, paragraph changed". */
function wordsOf({ where, what, kind }: Change): string {
  const place = where === 'body' || where === 'field' ? '' : `${where}, `;
  return kind === 'inserted' ? `${place}new ${what}` : `${place}${what} ${kinds[kind]}`;
}

/** About how high an entry is before it is laid out, in pixels. */
const entryHeight = 84;

/** Every change in order, to step through; those out of sight are not laid out. */
export function ChangeList({
  changes,
  current,
  onGo,
  onStep,
}: {
  changes: readonly Change[];
  current: number | null;
  onGo: (id: number) => void;
  onStep: (by: number) => void;
}) {
  const frame = useRef<HTMLElement>(null);
  const list = useVirtualizer({
    count: changes.length,
    getScrollElement: () => frame.current,
    estimateSize: () => entryHeight,
    overscan: 8,
  });
  const go = useRef(list.scrollToIndex);
  useLayoutEffect(() => {
    go.current = list.scrollToIndex;
  });
  useEffect(() => {
    if (current !== null) go.current(current - 1, { align: 'auto' });
  }, [current]);
  return (
    <aside className="changes" aria-label="Changes" ref={frame}>
      <div className="changes-head">
        <h2>Changes</h2>
        <span className="acts">
          <button type="button" className="quiet" onClick={() => onStep(-1)}>
            previous <kbd>Alt ↑</kbd>
          </button>
          <button type="button" className="quiet" onClick={() => onStep(1)}>
            next <kbd>Alt ↓</kbd>
          </button>
        </span>
      </div>
      <ol style={{ height: list.getTotalSize() }}>
        {list.getVirtualItems().map((item) => {
          const change = changes[item.index] as Change;
          return (
            <li
              key={change.id}
              ref={list.measureElement}
              data-index={item.index}
              aria-setsize={changes.length}
              aria-posinset={change.id}
              style={{ transform: `translateY(${item.start}px)` }}
            >
              <Entry change={change} isCurrent={change.id === current} onGo={onGo} />
            </li>
          );
        })}
      </ol>
    </aside>
  );
}

function Entry({
  change,
  isCurrent,
  onGo,
}: {
  change: Change;
  isCurrent: boolean;
  onGo: (id: number) => void;
}) {
  return (
    <button
      type="button"
      className={isCurrent ? 'change change-current' : 'change'}
      aria-current={isCurrent || undefined}
      onClick={() => onGo(change.id)}
    >
      <span className="change-what">{wordsOf(change)}</span>
      {change.place && <span className="change-place">{change.place}</span>}
      {change.kind === 'restyled' || change.kind === 'moved' ? (
        <span dir="auto">{change.after}</span>
      ) : (
        <span dir="auto">
          {change.before && <del>{change.before}</del>} {change.after && <ins>{change.after}</ins>}
        </span>
      )}
      {change.how && <span className="change-how">{change.how}</span>}
    </button>
  );
}
