import type { Library } from '@polychron/contract';
import { useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import { useParams } from 'react-router-dom';
import { librariesQuery } from './queries.ts';

/** The library the address names: undefined while it loads, null when there is none. */
export function useLibrary(): Library | null | undefined {
  const { code } = useParams();
  const { data } = useQuery(librariesQuery);
  if (!data) return undefined;
  return data.items.find((library) => library.code === code) ?? null;
}

const lastVisited = 'polychron last library';

/**
 * The library one is in, or was in last, in this browser; undefined while that loads and for whoever was in
 * none.
 */
export function useLastLibrary(): Library | undefined {
  const here = useLibrary();
  const { data } = useQuery(librariesQuery);
  const code = here?.code;
  useEffect(() => {
    if (code) localStorage.setItem(lastVisited, code);
  }, [code]);
  if (here) return here;
  const mine = data?.items.filter(({ roles }) => roles.length > 0) ?? [];
  return mine.find((library) => library.code === localStorage.getItem(lastVisited)) ?? mine[0];
}
