import type { Library } from '@polychron/contract';
import { useQuery } from '@tanstack/react-query';
import { useParams } from 'react-router-dom';
import { librariesQuery } from './queries.ts';

/** The library the address names: undefined while it loads, null when there is none. */
export function useLibrary(): Library | null | undefined {
  const { code } = useParams();
  const { data } = useQuery(librariesQuery);
  if (!data) return undefined;
  return data.items.find((library) => library.code === code) ?? null;
}
