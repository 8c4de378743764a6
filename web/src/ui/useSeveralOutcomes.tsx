import { type KeyboardEvent, type ReactNode, useState } from 'react';

/** Fields in which Enter chooses from what hangs open, or adds what was typed. */
const ownEnter = '.ant-select, .ant-picker';

/**
 * For a form that can come to several things: Enter in a field chooses none of them, and that is said.
 * Buttons are pressed as anywhere.
 */
export function useSeveralOutcomes(): {
  onKeyDown: (event: KeyboardEvent<HTMLElement>) => void;
  hint: ReactNode;
} {
  const [told, setTold] = useState(false);
  const onKeyDown = (event: KeyboardEvent<HTMLElement>): void => {
    if (event.key !== 'Enter' || !(event.target instanceof HTMLInputElement)) return;
    event.preventDefault();
    if (!event.target.closest(ownEnter)) setTold(true);
  };
  return {
    onKeyDown,
    hint: told && (
      <p className="muted" role="status">
        Enter chooses nothing here. Press the button that says what you mean.
      </p>
    ),
  };
}
