import { useEffect, useState } from 'react';
import { flushSync } from 'react-dom';

/** Whether the page is being printed: what is laid out only where it is seen is then laid out whole. */
export function usePrinting(): boolean {
  const [printing, setPrinting] = useState(false);
  useEffect(() => {
    // The paper is made as soon as the event is over.
    const begin = (): void => flushSync(() => setPrinting(true));
    const end = (): void => setPrinting(false);
    const paper = window.matchMedia('print');
    const turned = ({ matches }: MediaQueryListEvent): void => (matches ? begin() : end());
    window.addEventListener('beforeprint', begin);
    window.addEventListener('afterprint', end);
    paper.addEventListener('change', turned);
    return () => {
      window.removeEventListener('beforeprint', begin);
      window.removeEventListener('afterprint', end);
      paper.removeEventListener('change', turned);
    };
  }, []);
  return printing;
}
