import { ArrowDownIcon, ArrowUpIcon } from '@phosphor-icons/react';
import { Checkbox, Popover } from 'antd';
import { type KeyboardEvent, type PointerEvent, type ReactNode, useRef } from 'react';
import { useLibrary } from '../../parts/useLibrary.ts';
import { Word } from '../../ui/Word.tsx';
import {
  allColumns,
  type Column,
  columnName,
  isFixed,
  leastWidth,
  moved,
  resized,
  toggled,
  usualLayout,
  widthOf,
} from './columns.ts';
import { useLayout, useShownLayout } from './useLayout.ts';

/** Chooses which columns the Register has, and in which order. */
export function ColumnChoice() {
  const { layout, lay } = useLayout();
  const library = useLibrary();
  const { shown } = useShownLayout();
  const all = allColumns(library?.rules.fields.map(({ name }) => name) ?? []);
  const hidden = all.filter((column) => !shown.includes(column));
  const last = shown.length - 1;
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      content={
        <div className="columns" role="group" aria-label="Columns">
          <ul>
            {[...shown, ...hidden].map((column, index) => (
              <li key={column}>
                <Checkbox
                  checked={layout.shown.includes(column)}
                  disabled={isFixed(column)}
                  onChange={() => lay(toggled(layout, column))}
                >
                  {columnName(column)}
                </Checkbox>
                {index <= last && (
                  <span>
                    <button
                      type="button"
                      className="icon"
                      disabled={index === 0}
                      aria-label={`${columnName(column)}: further to the left`}
                      onClick={() => lay(moved(layout, column, -1))}
                    >
                      <ArrowUpIcon size={14} />
                    </button>
                    <button
                      type="button"
                      className="icon"
                      disabled={index === last}
                      aria-label={`${columnName(column)}: further to the right`}
                      onClick={() => lay(moved(layout, column, 1))}
                    >
                      <ArrowDownIcon size={14} />
                    </button>
                  </span>
                )}
              </li>
            ))}
          </ul>
          <button type="button" className="quiet" onClick={() => lay(usualLayout)}>
            As usual again
          </button>
        </div>
      }
    >
      <button type="button" className="quiet">
        Columns
      </button>
    </Popover>
  );
}

/** The heads of the columns; each but the title's is drawn wider or narrower at its edge. */
export function ColumnHeads({ room }: { room: number }) {
  const { shown } = useShownLayout();
  return (
    <>
      <span role="columnheader">
        <span className="unseen">Versions</span>
      </span>
      {shown.map((column) => (
        <span key={column} role="columnheader" className="column-head">
          {headOf(column)}
          {!isFixed(column) && <Edge column={column} room={room} />}
        </span>
      ))}
    </>
  );
}

/** The head of a column; one that is a word of the house says what that means. */
function headOf(column: Column): ReactNode {
  const name = columnName(column);
  return name === 'Strand' ? <Word of={name} /> : name;
}

/** How far an arrow key moves the edge, in pixels. */
const step = 10;

function Edge({ column, room }: { column: Column; room: number }) {
  const { layout, lay } = useLayout();
  const from = useRef<{ x: number; width: number } | null>(null);
  const width = widthOf(column, layout, room);
  const size = (to: number | null): void => lay(resized(useLayout.getState().layout, column, to));
  const byKey: Partial<Record<string, () => void>> = {
    ArrowLeft: () => size(width - step),
    ArrowRight: () => size(width + step),
    Home: () => size(null),
  };
  return (
    <span
      className="column-edge"
      role="separator"
      aria-orientation="vertical"
      aria-label={`Width of ${columnName(column)}`}
      aria-valuenow={width}
      aria-valuemin={leastWidth}
      tabIndex={0}
      title="Drag to make it wider or narrower; twice for its usual width"
      onDoubleClick={() => size(null)}
      onKeyDown={(event: KeyboardEvent) => {
        const act = byKey[event.key];
        if (!act) return;
        event.preventDefault();
        act();
      }}
      onPointerDown={(event: PointerEvent) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        from.current = { x: event.clientX, width };
      }}
      onPointerMove={(event: PointerEvent) => {
        if (from.current) size(from.current.width + event.clientX - from.current.x);
      }}
      onPointerUp={() => {
        from.current = null;
      }}
    />
  );
}
