import type { Library } from '@polychron/contract';
import { useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import { useLocation, useParams } from 'react-router-dom';
import { librariesQuery } from './queries.ts';

/** The library the address names: undefined while it loads, null when there is none. */
export function useLibrary(): Library | null | undefined {
  const { code } = useParams();
  const { data } = useQuery(librariesQuery);
  if (!data) return undefined;
  return data.items.find((library) => library.code === code) ?? null;
}

/**
 * The address of a page again, with the code that its library has now; null where it has that one, or there
 * is no such library.
 */
export function useAddressSince(): string | null {
  const { code } = useParams();
  const { pathname, search, hash } = useLocation();
  const { data } = useQuery(librariesQuery);
  if (code === undefined || data?.items.some((library) => library.code === code)) return null;
  const since = data?.items.find(({ formerCodes }) => formerCodes.includes(code));
  return since ? `/${since.code}${pathname.slice(1 + code.length)}${search}${hash}` : null;
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
  const last = localStorage.getItem(lastVisited) ?? '';
  return mine.find(({ code: now, formerCodes }) => [now, ...formerCodes].includes(last)) ?? mine[0];
}
