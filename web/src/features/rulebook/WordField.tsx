interface Props {
  name: string;
  value: string;
  /** Said in the empty field. */
  empty: string;
  onChange: (value: string) => void;
  marked?: boolean;
  /** Whether it holds a number or a pattern of one. */
  isNumber?: boolean;
}

/** A word or two in a sentence, typed. */
export function WordField({ name, value, empty, onChange, marked = false, isNumber = false }: Props) {
  return (
    <input
      className={`limit word-field ${isNumber ? 'number' : ''} ${marked ? 'choice-marked' : ''}`}
      size={Math.max(4, value.length || empty.length)}
      value={value}
      placeholder={empty}
      aria-label={name}
      maxLength={60}
      autoComplete="off"
      onChange={(event) => onChange(event.target.value)}
    />
  );
}
