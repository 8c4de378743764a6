import { sentenceOf } from './api.ts';
import './Refusal.css';

/** A refusal as the server says it, where it happened. */
export function Refusal({ error, onLeave }: { error: unknown; onLeave?: () => void }) {
  if (!error) return null;
  return (
    <div className="refusal" role="alert">
      <span>{sentenceOf(error)}</span>
      {onLeave && (
        <button type="button" className="quiet" onClick={onLeave}>
          Close
        </button>
      )}
    </div>
  );
}
