import { routes } from '@polychron/contract';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { call } from '../ui/api.ts';

/**
 * How long one waits before a place in the queue is worth a word, and how often it is looked up; in
 * milliseconds.
 */
const patience = 1500;
const lookEvery = 1000;

/** While a file is read on the server: how many are read before it. Says nothing where it is soon done. */
export function PlaceInQueue() {
  const [waits, setWaits] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setWaits(true), patience);
    return () => clearTimeout(timer);
  }, []);
  const { data } = useQuery({
    queryKey: ['turns'],
    queryFn: () => call(routes.readTurns),
    enabled: waits,
    refetchInterval: lookEvery,
    gcTime: 0,
  });
  if (!waits) return null;
  return (
    <p className="muted" role="status">
      {wordsFor(data?.ahead ?? null)}
    </p>
  );
}

function wordsFor(ahead: number | null): string {
  if (ahead === null || ahead === 0) return 'The file is being read …';
  return ahead === 1 ? 'One file is read before this one …' : `${ahead} files are read before this one …`;
}
