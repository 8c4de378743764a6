import { numberWords } from '@polychron/core';
import type { Comparison } from '@polychron/contract';
import {
  memo,
  type RefObject,
  useCallback,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Blocks, type Showing } from '../reading/Blocks.tsx';
import { Overview } from './Overview.tsx';
import { differs, guessHeight, topsOf, type Unit, unitsOf, unitsOfChanges } from './units.ts';
import { usePrinting } from '../../ui/usePrinting.ts';

/** Up to so many units all are laid out, so that the browser's own search finds every word. */
const fewUnits = 150;

/** Both versions with their changes, merged or side by side; what is out of sight is not laid out. */
export function ComparedText({
  comparison,
  sides,
  view,
  current,
  picture,
  onGo,
}: {
  comparison: Comparison;
  /** What each side is called: a version's label. */
  sides: { older: string; newer: string };
  view: 'merged' | 'sideBySide';
  current: number | null;
  picture: Showing['picture'];
  onGo: (id: number) => void;
}) {
  const units = useMemo(() => unitsOf(comparison), [comparison]);
  const places = useMemo(() => unitsOfChanges(units), [units]);
  const printing = usePrinting();
  const frame = useRef<HTMLDivElement>(null);
  // How far down the frame the text begins, in pixels.
  const [top, setTop] = useState(0);
  const list = useCallback((element: HTMLDivElement | null) => {
    if (element) setTop(element.offsetTop);
  }, []);
  const isSideBySide = view === 'sideBySide';
  const share = isSideBySide ? 0.6 : 1;
  const laid = useVirtualizer({
    count: units.length,
    getScrollElement: () => frame.current,
    estimateSize: (at) => guessHeight(units[at] as Unit, share),
    overscan: printing || units.length <= fewUnits ? units.length : 6,
    scrollMargin: top,
    useFlushSync: false,
    getItemKey: (at) => `${view} ${at}`,
  });
  const at = current === null ? undefined : places.get(current);
  useGoTo({
    current,
    view,
    frame,
    at,
    scrollTo: laid.scrollToIndex,
  });
  // By guessed heights: were they measured, all would move a little whenever something comes into sight.
  const marks = useMemo(() => {
    const tops = topsOf(units, share);
    const whole = Math.max(1, tops.at(-1) ?? 1);
    return comparison.changes.map(({ id, kind }) => ({
      id,
      kind,
      share: (tops[places.get(id) ?? 0] ?? 0) / whole,
    }));
  }, [comparison, units, places, share]);
  return (
    <>
      <div className="compare-page" ref={frame} tabIndex={0} role="region" aria-label="Text with its changes">
        {isSideBySide && (
          <div className="side-heads number">
            <span>{numberWords(sides.older)}</span>
            <span>{numberWords(sides.newer)}</span>
          </div>
        )}
        <Unchanged parts={comparison.parts} />
        {(['older', 'newer'] as const)
          .filter((side) => comparison.waiting[side] > 0)
          .map((side) => (
            <p key={side} className="unchanged">
              {numberWords(sides[side])} holds tracked changes that are not accepted (
              {comparison.waiting[side]}): it is compared as if they were.
            </p>
          ))}
        {!comparison.isShortest && (
          <p className="unchanged">
            The versions have little in common: a shorter list of changes may exist.
          </p>
        )}
        <div key={view} className="units" ref={list} style={{ height: laid.getTotalSize() }}>
          {laid.getVirtualItems().map((item) => (
            <div
              key={item.key}
              ref={laid.measureElement}
              data-index={item.index}
              className={item.index === at ? 'unit unit-current' : 'unit'}
              style={{ transform: `translateY(${item.start - top}px)` }}
            >
              <OneUnit
                unit={units[item.index] as Unit}
                isSideBySide={isSideBySide}
                picture={picture}
                change={current}
              />
            </div>
          ))}
        </div>
      </div>
      <Overview marks={marks} onGo={onGo} />
    </>
  );
}

const OneUnit = memo(function OneUnit({
  unit,
  isSideBySide,
  picture,
  change,
}: {
  unit: Unit;
  isSideBySide: boolean;
  picture: Showing['picture'];
  change: number | null;
}) {
  const { part, block, isFirst, isLast, isSlice } = unit;
  if (!block) return <h2 className="part-label">{part.label}</h2>;
  const isDivided = isSideBySide && part.where !== 'field';
  const names = [
    'slice',
    `part-${part.where}`,
    isFirst ? 'slice-first' : '',
    isLast ? 'slice-last' : '',
    isSlice ? 'slice-of-table' : '',
    isDivided ? 'slice-divided' : '',
  ];
  const blocks = (sides: Showing['sides']) => (
    <Blocks blocks={[block]} showing={{ picture, change, sides }} />
  );
  return (
    <div className={names.filter(Boolean).join(' ')}>
      {isDivided ? (
        <>
          <div>{blocks('older')}</div>
          <div>{blocks('newer')}</div>
        </>
      ) : (
        blocks('both')
      )}
    </div>
  );
});

/** Headers, footers and notes that are the same take a line, not a page. */
function Unchanged({ parts }: { parts: Comparison['parts'] }) {
  const same = parts
    .filter((part) => part.where !== 'body' && !differs(part))
    .map((part) => part.label.toLowerCase());
  return same.length > 0 && <p className="unchanged">Unchanged: {same.join('; ')}.</p>;
}

/** Brings a change into view when it is stepped to: its unit first, then its very row or paragraph. */
function useGoTo({
  current,
  view,
  frame,
  at,
  scrollTo,
}: {
  current: number | null;
  view: string;
  frame: RefObject<HTMLElement | null>;
  at: number | undefined;
  scrollTo: (at: number, options: { align: 'center' }) => void;
}): void {
  const go = useRef(scrollTo);
  useLayoutEffect(() => {
    go.current = scrollTo;
  });
  useEffect(() => {
    if (current === null || at === undefined) return undefined;
    go.current(at, { align: 'center' });
    // What was out of sight is laid out in the frame after, and measured in the one after that.
    let wait = requestAnimationFrame(() => {
      wait = requestAnimationFrame(() =>
        frame.current?.querySelector(`[data-change="${current}"]`)?.scrollIntoView({ block: 'center' }),
      );
    });
    return () => cancelAnimationFrame(wait);
  }, [current, view, at, frame]);
}
