import { type ReactNode, useEffect, useRef } from 'react';

/** A line that calls back as often as it comes into view. */
export function WhenSeen({ onSeen, children }: { onSeen: () => void; children: ReactNode }) {
  const line = useRef<HTMLParagraphElement>(null);
  const latest = useRef(onSeen);
  useEffect(() => {
    latest.current = onSeen;
  });
  useEffect(() => {
    // Half a screen ahead, so that one seldom waits.
    const observer = new IntersectionObserver(
      ([entry]) => {
        if (entry?.isIntersecting) latest.current();
      },
      { rootMargin: '50%' },
    );
    if (line.current) observer.observe(line.current);
    return () => observer.disconnect();
  });
  return (
    <p ref={line} className="muted" role="status">
      {children}
    </p>
  );
}
