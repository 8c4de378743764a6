import { useEffect, useState } from 'react';

/** What had the focus last, by its name, and what it stood in, from the inside out. */
interface Place {
  name: string;
  within: readonly Element[];
}

let last: Place | null = null;
const nameOf = (element: Element): string =>
  (element.getAttribute('aria-label') ?? element.textContent ?? '').trim();

document.addEventListener('focusin', ({ target }) => {
  if (!(target instanceof HTMLElement) || target === document.body) return;
  const within: Element[] = [];
  for (let around: Element | null = target; around; around = around.parentElement) within.push(around);
  last = { name: nameOf(target), within };
});

/**
 * Gives the focus back to what opened a form, once the form is left: the button may have made room for it,
 * and be another element of the same name by then. Where it is gone, what it stood in has it.
 */
export function useFocusBack(): void {
  const [from] = useState(last);
  useEffect(
    () => () => {
      requestAnimationFrame(() => {
        const { activeElement } = document;
        if (!from || (activeElement && activeElement !== document.body && activeElement.isConnected)) return;
        const [itself, ...around] = from.within;
        const there = around.find((one) => one.isConnected);
        const again = itself?.isConnected
          ? itself
          : [...(there?.querySelectorAll('button, a, [tabindex]') ?? [])].find(
              (one) => nameOf(one) === from.name,
            );
        const main = document.querySelector<HTMLElement>('main h1');
        const to = again instanceof HTMLElement ? again : main;
        if (!to) return;
        if (to === main) to.tabIndex = -1;
        to.focus();
      });
    },
    [from],
  );
}
