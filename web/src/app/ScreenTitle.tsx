import { useEffect, useState } from 'react';
import { useLocation } from 'react-router-dom';

/** What a screen is called: what it says of itself, else number and heading. */
export function titleOfScreen(main: HTMLElement): string {
  const own = main.dataset['title'];
  if (own) return own;
  const words = [main.querySelector('header .doc-number'), main.querySelector('h1')].map((part) =>
    (part?.textContent ?? '').replace(/\s+/g, ' ').trim(),
  );
  return [...new Set(words)].filter(Boolean).join(' ');
}

/** The title of the tab, which says the screen and its document; a change of it is announced. */
export function ScreenTitle() {
  const { pathname } = useLocation();
  const [said, setSaid] = useState('');
  useEffect(() => {
    let frame = 0;
    const tell = (): void => {
      frame = 0;
      const main = document.querySelector<HTMLElement>('#screen > main');
      // What is still read has no name yet.
      if (!main || main.querySelector(':scope > .waiting')) return;
      const title = titleOfScreen(main);
      if (title === '') return;
      document.title = `${title} · Polychron`;
      setSaid(title);
    };
    const soon = (): void => {
      if (frame === 0) frame = requestAnimationFrame(tell);
    };
    const observer = new MutationObserver(soon);
    const screen = document.getElementById('screen');
    if (screen) observer.observe(screen, { childList: true, subtree: true, characterData: true });
    soon();
    return () => {
      observer.disconnect();
      cancelAnimationFrame(frame);
    };
  }, [pathname]);
  return (
    <p className="unseen" aria-live="polite">
      {said}
    </p>
  );
}
