import { type RefObject, useLayoutEffect, useState } from 'react';

/** The width of an element in whole pixels, kept up to date; `fixed` is taken where given. */
export function useWidth(element: RefObject<HTMLElement | null>, fixed?: number): number {
  const [width, setWidth] = useState(fixed ?? 0);
  useLayoutEffect(() => {
    const target = element.current;
    if (fixed !== undefined || !target) return undefined;
    const observer = new ResizeObserver(() => setWidth(Math.floor(target.clientWidth)));
    observer.observe(target);
    return () => observer.disconnect();
  }, [element, fixed]);
  return fixed ?? width;
}
