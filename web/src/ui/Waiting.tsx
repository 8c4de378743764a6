import './Waiting.css';

/** Drawn while a screen is being read: its lines to come; not at once, so that it does not flash. */
export function Waiting({ lines = 6 }: { lines?: number }) {
  return (
    <div className="waiting" role="status" aria-label="Loading" aria-busy="true">
      {Array.from({ length: lines }, (_, line) => (
        <span key={line} style={{ width: `${90 - ((line * 23) % 40)}%` }} />
      ))}
    </div>
  );
}
