import { useState } from 'react';

interface Menu {
  open: boolean;
  trigger: ['hover'] | ['click'];
  onOpenChange: (open: boolean) => void;
}

/**
 * A menu that opens under the pointer where `onHover` says so. A press opens it too, and never closes what
 * the pointer has just opened; it closes by leaving, choosing or Escape.
 * @returns what the menu takes, and what is done when its words are pressed
 */
export function useMenu(onHover: boolean): { menu: Menu; press: (() => void) | undefined } {
  const [open, setOpen] = useState(false);
  return {
    menu: { open, trigger: onHover ? ['hover'] : ['click'], onOpenChange: setOpen },
    press: onHover ? () => setOpen(true) : undefined,
  };
}
