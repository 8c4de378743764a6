import { useQueryClient } from '@tanstack/react-query';
import { useSyncExternalStore } from 'react';
import { isAway } from '../ui/api.ts';
import './LostLine.css';

/** Says so while what the screen shows cannot be read, and goes when it can. */
export function LostLine() {
  const cache = useQueryClient().getQueryCache();
  const lost = useSyncExternalStore(
    (changed) => cache.subscribe(changed),
    () => cache.getAll().some((query) => query.isActive() && isAway(query.state.fetchFailureReason)),
  );
  if (!lost) return null;
  return (
    <p className="lost" role="status">
      The server cannot be reached just now. What you see may be old; it is read again as soon as the server
      answers. What you have typed stays.
    </p>
  );
}
