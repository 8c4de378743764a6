import { useHotkeys } from 'react-hotkeys-hook';

/** A list or calendar that hangs open from its field. */
const open = ['select', 'picker']
  .map((kind) => `.ant-${kind}-dropdown:not(.ant-${kind}-dropdown-hidden)`)
  .join();

/** Leaves a form by Escape, from its fields too; where a list is open, Escape closes that alone. */
export function useEscape(leave: () => void): void {
  useHotkeys('escape', leave, {
    enableOnFormTags: true,
    // Asked before the list hears of it and closes.
    eventListenerOptions: { capture: true },
    ignoreEventWhen: () => document.querySelector(open) !== null,
  });
}
