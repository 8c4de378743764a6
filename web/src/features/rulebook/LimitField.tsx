import { type PointerEvent, useRef, useState } from 'react';

interface Props {
  name: string;
  value: number | null;
  least?: number;
  none: string;
  onChange: (value: number | null) => void;
  marked: boolean;
  disabled?: boolean;
}

/** Pixels of dragging that change the limit by one. */
const pixelsPerStep = 7;

/** A number in a sentence: typed, or dragged sideways. Left empty it is no limit. */
export function LimitField({ name, value, least = 0, none, onChange, marked, disabled = false }: Props) {
  const [typed, setTyped] = useState<string | null>(null);
  const drag = useRef<{ x: number; from: number; moved: boolean } | null>(null);
  const shown = typed ?? (value === null ? '' : String(value));
  const take = (text: string): void => {
    setTyped(text);
    // What is no number is kept in the field and refused by the rules themselves, with their own sentence.
    if (text.trim() === '') onChange(null);
    else onChange(Number(text));
  };
  const start = (event: PointerEvent<HTMLInputElement>): void => {
    if (disabled || document.activeElement === event.currentTarget) return;
    drag.current = { x: event.clientX, from: value ?? least, moved: false };
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const move = (event: PointerEvent<HTMLInputElement>): void => {
    const { current } = drag;
    if (!current) return;
    const steps = Math.round((event.clientX - current.x) / pixelsPerStep);
    if (steps === 0 && !current.moved) return;
    current.moved = true;
    setTyped(null);
    onChange(Math.max(least, current.from + steps));
  };
  return (
    <input
      className={`limit ${marked ? 'choice-marked' : ''}`}
      size={Math.max(2, shown.length || none.length)}
      value={shown}
      placeholder={none}
      aria-label={name}
      disabled={disabled}
      inputMode="numeric"
      title={`${name}: type a number, or drag it sideways; empty: ${none}`}
      autoComplete="off"
      onChange={(event) => take(event.target.value)}
      onFocus={(event) => event.currentTarget.select()}
      onBlur={() => setTyped(null)}
      onPointerDown={start}
      onPointerMove={move}
      onPointerUp={() => {
        drag.current = null;
      }}
    />
  );
}
