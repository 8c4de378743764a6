import './Waiting.css';

/**
 * Drawn while a screen is being read: its lines to come; not at once, so that it does not flash.
 * @param screen whether it stands for the whole screen
 */
export function Waiting({ lines = 6, screen = false }: { lines?: number; screen?: boolean }) {
  const drawn = (
    <div className="waiting" role="status" aria-label="Loading" aria-busy="true">
      {Array.from({ length: lines }, (_, line) => (
        <span key={line} style={{ width: `${90 - ((line * 23) % 40)}%` }} />
      ))}
    </div>
  );
  if (!screen) return drawn;
  return (
    <main>
      <h1 className="unseen">Loading</h1>
      {drawn}
    </main>
  );
}
