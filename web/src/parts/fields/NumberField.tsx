import { Input } from 'antd';
import { useState } from 'react';
import { readNumber } from '../../ui/number.ts';

interface Props {
  /** What the form hands in: a number, or the text that is none. */
  value?: number | string | null;
  onChange?: (value: number | string | null) => void;
  [handed: string]: unknown;
}

const textOf = (value: number | string | null): string => (value === null ? '' : String(value));

/** A number as it was typed, with a comma or a point; what is no number stays, for the form to say so. */
export function NumberField({ value = null, onChange = () => undefined, ...handed }: Props) {
  const [typed, setTyped] = useState(textOf(value));
  // What was typed stays as it was typed, while it still says what the form holds.
  const isSame = (readNumber(typed) ?? (typed === '' ? null : typed)) === value;
  return (
    <Input
      {...handed}
      inputMode="decimal"
      maxLength={40}
      value={isSame ? typed : textOf(value)}
      onChange={({ target }) => {
        setTyped(target.value);
        onChange(target.value.trim() === '' ? null : (readNumber(target.value) ?? target.value));
      }}
    />
  );
}

/** Refuses what was typed and is no number. */
export const isNumber = (name: string) => ({
  validator: (_: unknown, value: unknown): Promise<void> =>
    typeof value === 'string' && value.trim() !== ''
      ? Promise.reject(new Error(`${name} is a number, like 12.5 or 12,5; “${value}” is none.`))
      : Promise.resolve(),
});
