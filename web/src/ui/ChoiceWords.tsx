import type { HTMLAttributes, KeyboardEvent, Ref } from 'react';
import './Choice.css';

interface Props extends HTMLAttributes<HTMLSpanElement> {
  ref?: Ref<HTMLSpanElement>;
  marked: boolean;
  disabled?: boolean;
}

/**
 * Words of a sentence that open a menu. They break with the sentence, as a browser's own button, which is one
 * block wherever it stands, does not.
 */
export function ChoiceWords({ marked, disabled = false, className = '', onClick, ...rest }: Props) {
  const press = (event: KeyboardEvent<HTMLSpanElement>): void => {
    if (event.key !== 'Enter' && event.key !== ' ') return;
    event.preventDefault();
    event.currentTarget.click();
  };
  return (
    <span
      {...rest}
      role="button"
      tabIndex={disabled ? -1 : 0}
      aria-disabled={disabled || undefined}
      aria-haspopup="menu"
      className={`choice ${marked ? 'choice-marked' : ''} ${className}`}
      onClick={disabled ? undefined : onClick}
      onKeyDown={press}
    />
  );
}
