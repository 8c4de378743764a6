import { type ComponentProps, useLayoutEffect, useRef, useState } from 'react';

/**
 * A place that scrolls by itself: while it holds more than is seen, keys reach and scroll it
 * (WCAG 2.2, 2.1.1); `label` says what it holds.
 */
export function Scrolling({ label, ...given }: ComponentProps<'div'> & { label: string }) {
  const place = useRef<HTMLDivElement>(null);
  const [holdsMore, setHoldsMore] = useState(false);
  // After every drawing: what it holds may be another.
  useLayoutEffect(() => {
    const element = place.current;
    if (!element) return undefined;
    const observer = new ResizeObserver(() => {
      const { scrollHeight, clientHeight, scrollWidth, clientWidth } = element;
      setHoldsMore(scrollHeight > clientHeight || scrollWidth > clientWidth);
    });
    for (const watched of [element, ...element.children]) observer.observe(watched);
    return () => observer.disconnect();
  });
  return (
    <div ref={place} {...given} {...(holdsMore && { tabIndex: 0, role: 'region', 'aria-label': label })} />
  );
}
