import dayjs, { type ManipulateType } from 'dayjs';
import type { KeyboardEvent, PointerEvent, RefObject } from 'react';
import { date, moment } from '../../ui/when.ts';
import { shareOf, type Span } from './calendar.ts';

interface Props {
  /** What the line is moved in. */
  frame: RefObject<HTMLElement | null>;
  span: Span;
  time: number;
  name: string;
  kind: 'first' | 'second';
  onMove: (time: number) => void;
  onMoved: (time: number) => void;
}

const steps: Readonly<Record<string, readonly [count: number, unit: ManipulateType]>> = {
  ArrowLeft: [-1, 'day'],
  ArrowRight: [1, 'day'],
  PageDown: [-1, 'month'],
  PageUp: [1, 'month'],
};

/** A line through the whole calendar at one moment, moved by pointer or keys: a day, or a month. */
export function Plumb({ frame, span, time, name, kind, onMove, onMoved }: Props) {
  const timeAt = (event: PointerEvent): number | null => {
    const box = frame.current?.getBoundingClientRect();
    if (!box || box.width === 0) return null;
    const share = Math.min(1, Math.max(0, (event.clientX - box.left) / box.width));
    return Math.round(span.from + share * (span.to - span.from));
  };
  const byKey = (event: KeyboardEvent): void => {
    const ends: Readonly<Record<string, number>> = { Home: span.from, End: span.to };
    const step = steps[event.key];
    const next = step ? dayjs(time).add(step[0], step[1]).valueOf() : ends[event.key];
    if (next === undefined) return;
    event.preventDefault();
    onMoved(Math.min(span.to, Math.max(span.from, next)));
  };
  return (
    <div
      className={`plumb plumb-${kind}`}
      style={{ insetInlineStart: `${shareOf(span, time) * 100}%` }}
      role="slider"
      tabIndex={0}
      aria-label={name}
      aria-orientation="horizontal"
      aria-valuemin={span.from}
      aria-valuemax={span.to}
      aria-valuenow={time}
      aria-valuetext={moment(new Date(time).toISOString())}
      onKeyDown={byKey}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={(event) => {
        const next = event.currentTarget.hasPointerCapture(event.pointerId) ? timeAt(event) : null;
        if (next !== null) onMove(next);
      }}
      onPointerUp={(event) => {
        const next = timeAt(event);
        if (next !== null) onMoved(next);
      }}
    >
      <span className="plumb-bob">{date(new Date(time).toISOString())}</span>
    </div>
  );
}
