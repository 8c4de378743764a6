import { routes, type DocumentQuery } from '@polychron/contract';
import { queryOptions, infiniteQueryOptions, type QueryClient } from '@tanstack/react-query';
import { call } from './api.ts';

/** What the server knows, by the keys it is cached under. */
export const sessionQuery = queryOptions({ queryKey: ['session'], queryFn: () => call(routes.readSession), retry: false, staleTime: 60_000 });
export const librariesQuery = queryOptions({ queryKey: ['libraries'], queryFn: () => call(routes.listLibraries), staleTime: 30_000 });

export type RegisterFilter = Partial<Pick<DocumentQuery, 'q' | 'state' | 'heldBy' | 'subject' | 'overdue' | 'sort'>>;
export const documentsQuery = (libraryId: string, filter: RegisterFilter) => infiniteQueryOptions({
  queryKey: ['documents', libraryId, filter],
  queryFn: ({ pageParam }) => call(routes.listDocuments, { params: { id: libraryId }, query: { ...filter, limit: 50, ...(pageParam ? { cursor: pageParam } : {}) } }),
  initialPageParam: '', getNextPageParam: (page) => page.next,
});
export const documentQuery = (id: string) => queryOptions({ queryKey: ['document', id], queryFn: () => call(routes.readDocument, { params: { id } }) });
export const versionsQuery = (id: string) => infiniteQueryOptions({
  queryKey: ['versions', id],
  queryFn: ({ pageParam }) => call(routes.listVersions, { params: { id }, query: { limit: 200, ...(pageParam ? { cursor: pageParam } : {}) } }),
  initialPageParam: '', getNextPageParam: (page) => page.next,
});
export const readingQuery = (id: string, v: string) => queryOptions({
  queryKey: ['reading', id, v], queryFn: () => call(routes.versionReading, { params: { id, v } }), staleTime: Infinity, retry: false,
});
export const comparisonQuery = (id: string, from: string, to: string) => queryOptions({
  queryKey: ['compare', id, from, to], queryFn: () => call(routes.compareVersions, { params: { id }, query: { from, to } }), staleTime: Infinity, retry: false,
});

/** After an act on a document: everything that shows it is read again. */
export function refreshDocument(client: QueryClient, id: string): Promise<unknown> {
  return Promise.all([
    client.invalidateQueries({ queryKey: ['document', id] }), client.invalidateQueries({ queryKey: ['versions', id] }),
    client.invalidateQueries({ queryKey: ['documents'] }),
  ]);
}
