import {
  routes,
  type ApprovalQuery,
  type DocumentList,
  type DocumentQuery,
  type SubjectList,
} from '@polychron/contract';
import type { Role } from '@polychron/core';
import {
  queryOptions,
  infiniteQueryOptions,
  keepPreviousData,
  type InfiniteData,
  type Query,
  type QueryClient,
  type QueryFilters,
} from '@tanstack/react-query';
import { ask, call, isUnanswered } from '../ui/api.ts';
import { useLooking } from '../ui/looking.ts';

/** Reads the pages of a list that are not there yet, one after another. */
export async function readRest(list: {
  hasNextPage: boolean;
  fetchNextPage: () => Promise<{ hasNextPage: boolean }>;
}): Promise<void> {
  for (let more = list.hasNextPage; more;) more = (await list.fetchNextPage()).hasNextPage;
}

/** What is costly is not asked again because the server has too much to do: it says so then. */
const untilAnswered = (_: number, error: Error): boolean => isUnanswered(error);

/** What the server knows, by the keys it is cached under. */
export const sessionQuery = queryOptions({
  queryKey: ['session'],
  queryFn: () => call(routes.readSession),
  staleTime: 60_000,
});
export const librariesQuery = queryOptions({
  queryKey: ['libraries'],
  queryFn: () => call(routes.listLibraries),
  staleTime: 30_000,
});

/** The caller's own libraries, whoever they look as; whoever looks as nobody else asks for them once. */
export const ownLibrariesQuery = queryOptions({
  queryKey: ['own-libraries'],
  queryFn: ({ client }) =>
    useLooking.getState().as === null
      ? client.fetchQuery(librariesQuery)
      : call(routes.listLibraries, { asMyself: true }),
  staleTime: 30_000,
});
/** The server's time, and whether it is believed. */
export const clockQuery = queryOptions({
  queryKey: ['clock'],
  queryFn: () => call(routes.readClock),
  staleTime: 60_000,
  refetchInterval: 300_000,
});
/** A library's members, with the tag that setting them needs. */
export const membersQuery = (libraryId: string) =>
  queryOptions({
    queryKey: ['members', libraryId],
    queryFn: async () => {
      const { answer, tag } = await ask(routes.listMembers, { params: { id: libraryId } });
      return { members: answer, tag };
    },
  });
/** People with a role in a library whose name or account holds what is asked for. */
export const libraryPeopleQuery = (libraryId: string, query: { q: string; role?: Role | undefined }) =>
  queryOptions({
    queryKey: ['members', libraryId, 'people', query],
    queryFn: () => call(routes.libraryPeople, { params: { id: libraryId }, query: { ...query, limit: 50 } }),
    staleTime: 30_000,
  });
/** Templates of a library, the first two hundred. */
export const templatesQuery = (libraryId: string) =>
  queryOptions({
    queryKey: ['templates', libraryId],
    queryFn: () => call(routes.listTemplates, { params: { id: libraryId }, query: { limit: 200 } }),
    staleTime: 30_000,
  });
/** The number a new document of a type would get now. */
export const nextNumberQuery = (libraryId: string, type: string) =>
  queryOptions({
    queryKey: ['documents', libraryId, 'nextNumber', type],
    queryFn: () => call(routes.nextNumber, { params: { id: libraryId }, query: type === '' ? {} : { type } }),
    staleTime: 10_000,
  });
/** A library's rules, with the tag that changing them needs. */
export const rulebookQuery = (libraryId: string) =>
  queryOptions({
    queryKey: ['rulebook', libraryId],
    queryFn: async () => {
      const { answer, tag } = await ask(routes.readRulebook, { params: { id: libraryId } });
      return { ...answer, tag };
    },
  });
/** Revisions of the rules, newest first. */
export const rulebookHistoryQuery = (libraryId: string) =>
  infiniteQueryOptions({
    queryKey: ['rulebook-history', libraryId],
    queryFn: ({ pageParam }) =>
      call(routes.rulebookHistory, {
        params: { id: libraryId },
        query: { limit: 20, ...(pageParam ? { cursor: pageParam } : {}) },
      }),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
  });
/** How often a library publishes, with limits made of that. */
export const paceQuery = (libraryId: string) =>
  queryOptions({
    queryKey: ['pace', libraryId],
    queryFn: () => call(routes.pace, { params: { id: libraryId } }),
    staleTime: 60_000,
  });
/** Thinned content that can still be recovered. */
export const shelfQuery = (libraryId: string, revision: number | null = null) =>
  infiniteQueryOptions({
    queryKey: ['shelf', libraryId, revision],
    queryFn: ({ pageParam }) =>
      call(routes.shelf, {
        params: { id: libraryId },
        query: {
          limit: 50,
          ...(revision === null ? {} : { revision }),
          ...(pageParam ? { cursor: pageParam } : {}),
        },
      }),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
  });
/** Accounts by name or account: all of them, or those that are open. */
export const peopleQuery = (q: string, open?: true) =>
  infiniteQueryOptions({
    queryKey: ['people', q, open ?? false],
    queryFn: ({ pageParam }) =>
      call(routes.listPeople, {
        query: { q, limit: 100, ...(open ? { open } : {}), ...(pageParam ? { cursor: pageParam } : {}) },
      }),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
  });
/** How one signs in here. */
export const waysQuery = queryOptions({
  queryKey: ['ways'],
  queryFn: () => call(routes.signInWays),
  staleTime: 60_000,
});
export const deskQuery = queryOptions({ queryKey: ['desk'], queryFn: () => call(routes.desk) });
/** How many notices are new and how many decisions wait, for the frame. */
export const waitingQuery = queryOptions({
  queryKey: ['desk', 'waiting'],
  queryFn: () => call(routes.waiting),
  staleTime: 30_000,
});
/** What waits for one's decision, or is out for others'; read again with the Desk. */
export const approvalsQuery = (query: Pick<ApprovalQuery, 'part' | 'state'>) =>
  infiniteQueryOptions({
    queryKey: ['desk', 'approvals', query],
    queryFn: ({ pageParam }) =>
      call(routes.listApprovals, {
        query: { ...query, limit: 50, ...(pageParam ? { cursor: pageParam } : {}) },
      }),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
  });
/** Messages that were made for one, newest first; read again with the Desk. */
export const outboxQuery = infiniteQueryOptions({
  queryKey: ['desk', 'outbox'],
  queryFn: ({ pageParam }) =>
    call(routes.outbox, { query: { limit: 50, ...(pageParam ? { cursor: pageParam } : {}) } }),
  initialPageParam: '',
  getNextPageParam: (page) => page.next,
});
/** A message as it reads. */
export const messageQuery = (id: string) =>
  queryOptions({
    queryKey: ['desk', 'outbox', id],
    queryFn: () => call(routes.readMessage, { params: { id } }),
  });
/** How notices come to one by mail. */
export const mailChoiceQuery = queryOptions({
  queryKey: ['mail-choice'],
  queryFn: () => call(routes.readMailChoice),
});
/** A file of one's own. */
export const deskFileQuery = (id: string) =>
  queryOptions({
    queryKey: ['desk-file', id],
    queryFn: () => call(routes.readDeskFile, { params: { id } }),
  });
/** A file of one's own laid over what happened to its document. */
export const mergeQuery = (id: string, document: string | undefined) =>
  queryOptions({
    queryKey: ['merge', id, document ?? ''],
    queryFn: () => call(routes.mergeDeskFile, { params: { id }, query: { document } }),
    retry: untilAnswered,
  });
/** The saves of a working copy. */
export const savesQuery = (id: string) =>
  queryOptions({ queryKey: ['saves', id], queryFn: () => call(routes.listSaves, { params: { id } }) });
/** What the working copy changes against its base. */
export const soFarQuery = (id: string) =>
  queryOptions({
    queryKey: ['so-far', id],
    queryFn: () => call(routes.compareSoFar, { params: { id } }),
    retry: untilAnswered,
  });
/** Who held a document, newest first. */
export const custodyHistoryQuery = (id: string) =>
  infiniteQueryOptions({
    queryKey: ['custody', id],
    queryFn: ({ pageParam }) =>
      call(routes.custodyHistory, {
        params: { id },
        query: { limit: 10, ...(pageParam ? { cursor: pageParam } : {}) },
      }),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
  });
/** Groups by name, that of somebody in them, or that of a library. */
export const groupsQuery = (q: string) =>
  infiniteQueryOptions({
    queryKey: ['groups', q],
    queryFn: ({ pageParam }) =>
      call(routes.listGroups, { query: { q, limit: 50, ...(pageParam ? { cursor: pageParam } : {}) } }),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
  });
/** Who is to read what is in force of a document; those who have not confirmed it first. */
export const distributionQuery = (id: string) =>
  infiniteQueryOptions({
    queryKey: ['distribution', id],
    queryFn: ({ pageParam }) =>
      call(routes.readDistribution, {
        params: { id },
        query: { limit: 50, ...(pageParam ? { cursor: pageParam } : {}) },
      }),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
  });
/** To whom a document is kept. */
export const limitQuery = (id: string) =>
  queryOptions({ queryKey: ['limit', id], queryFn: () => call(routes.readLimit, { params: { id } }) });
/** Whose sight of a document would change, were it kept to these. */
export const limitOutcomeQuery = (id: string, limit: { people: string[]; groups: string[] } | null) =>
  queryOptions({
    queryKey: ['limit', id, 'outcome', limit],
    queryFn: () => call(routes.setLimit, { params: { id }, body: { limit, rehearse: true } }),
    retry: untilAnswered,
    staleTime: 0,
    gcTime: 0,
  });
/** Members by versions of a document. */
export const visibilityQuery = (documentId: string, member: string) =>
  infiniteQueryOptions({
    queryKey: ['visibility', documentId, member],
    queryFn: ({ pageParam }) =>
      call(routes.visibility, {
        params: { id: documentId },
        query: { limit: 12, member, ...(pageParam ? { cursor: pageParam } : {}) },
      }),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
  });

/** Why readers would get a version as it was checked in, and no issued copy of it. */
export const issuableQuery = (id: string, v: string) =>
  queryOptions({
    queryKey: ['issuable', id, v],
    queryFn: () => call(routes.versionIssuable, { params: { id, v } }),
    staleTime: 60_000,
  });

export type RegisterFilter = Partial<
  Pick<
    DocumentQuery,
    'q' | 'state' | 'heldBy' | 'subject' | 'path' | 'overdue' | 'review' | 'voided' | 'sort'
  >
>;
/** A library's documents that fit the filter. */
export const documentsQuery = (libraryId: string, filter: RegisterFilter) =>
  infiniteQueryOptions({
    queryKey: ['documents', libraryId, filter],
    queryFn: ({ pageParam }) =>
      call(routes.listDocuments, {
        params: { id: libraryId },
        query: { ...filter, limit: 50, ...(pageParam ? { cursor: pageParam } : {}) },
      }),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
  });
/** Most subjects that are drawn beneath one. */
const mostSubjects = 2000;
/** Subjects that come next on a path; without one, those that stand first. */
export const subjectsQuery = (libraryId: string, path?: string) =>
  queryOptions({
    queryKey: ['documents', libraryId, 'subjects', path ?? ''],
    queryFn: async () => {
      const items: SubjectList['items'] = [];
      for (let cursor: string | null = ''; cursor !== null && items.length < mostSubjects;) {
        const query = { limit: 200, ...(path ? { path } : {}), ...(cursor ? { cursor } : {}) };
        const part: SubjectList = await call(routes.listSubjects, { params: { id: libraryId }, query });
        items.push(...part.items);
        cursor = part.next;
      }
      return items;
    },
    staleTime: 30_000,
  });
/** One document. */
export const documentQuery = (id: string) =>
  queryOptions({ queryKey: ['document', id], queryFn: () => call(routes.readDocument, { params: { id } }) });
/** The versions of a document that one sees, newest first. */
export const versionsQuery = (id: string) =>
  infiniteQueryOptions({
    queryKey: ['versions', id],
    queryFn: ({ pageParam }) =>
      call(routes.listVersions, {
        params: { id },
        query: { limit: 200, ...(pageParam ? { cursor: pageParam } : {}) },
      }),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
  });
/** What readers would have after an act on a published version; computed anew each time it is asked. */
export const outlookQuery = (id: string, v: string, act: 'withdraw' | 'reinstate' | 'takeBack') =>
  queryOptions({
    queryKey: ['outlook', id, v, act],
    queryFn: () => call(routes.versionOutlook, { params: { id, v }, query: { act } }),
    retry: untilAnswered,
    staleTime: 0,
    gcTime: 0,
  });
/** What is in force, in one library or in all; by words and by a path of subjects. */
export const inForceQuery = (of: { libraryId?: string | undefined; q: string; path?: string | undefined }) =>
  infiniteQueryOptions({
    queryKey: ['documents', of.libraryId ?? 'all', 'in-force', of.q, of.path ?? ''],
    queryFn: ({ pageParam }) => {
      const query = {
        limit: 100,
        ...(of.q ? { q: of.q } : {}),
        ...(of.path ? { path: of.path } : {}),
        ...(pageParam ? { cursor: pageParam } : {}),
      };
      return of.libraryId === undefined
        ? call(routes.inForce, { query })
        : call(routes.libraryInForce, { params: { id: of.libraryId }, query });
    },
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
  });
/** What was in force in a library when. */
export const calendarQuery = (libraryId: string) =>
  infiniteQueryOptions({
    queryKey: ['documents', libraryId, 'calendar'],
    queryFn: ({ pageParam }) =>
      call(routes.calendar, {
        params: { id: libraryId },
        query: { limit: 100, ...(pageParam ? { cursor: pageParam } : {}) },
      }),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
  });
/** What happened in a library between two moments. */
export const daysQuery = (libraryId: string, days: { from: string; to: string }) =>
  infiniteQueryOptions({
    queryKey: ['documents', libraryId, 'days', days],
    queryFn: ({ pageParam }) =>
      call(routes.days, {
        params: { id: libraryId },
        query: { ...days, limit: 100, ...(pageParam ? { cursor: pageParam } : {}) },
      }),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
    retry: untilAnswered,
  });
/** A version as it reads, part by part; it never changes. */
export const readingQuery = (id: string, v: string) =>
  infiniteQueryOptions({
    queryKey: ['reading', id, v],
    queryFn: ({ pageParam }) =>
      call(routes.versionReading, { params: { id, v }, query: pageParam ? { cursor: pageParam } : {} }),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
    staleTime: Infinity,
    retry: untilAnswered,
  });
/** What changed between two versions; it never changes. */
export const comparisonQuery = (id: string, from: string, to: string) =>
  queryOptions({
    queryKey: ['compare', id, from, to],
    queryFn: () => call(routes.compareVersions, { params: { id }, query: { from, to } }),
    staleTime: Infinity,
    retry: untilAnswered,
  });

/**
 * Reads again what is shown. What is only now read for the first time may have been answered before the
 * change: it is read again after that.
 */
export async function readAgain(client: QueryClient, filters: QueryFilters): Promise<void> {
  const isFirst = ({ state }: Query): boolean => state.data === undefined && state.fetchStatus === 'fetching';
  const first = client.getQueryCache().findAll(filters).filter(isFirst);
  await client.invalidateQueries(filters);
  await Promise.all(first.map(({ queryKey }) => client.invalidateQueries({ queryKey, exact: true })));
}

/** After an act on a document: everything that shows it is read again. */
export function refreshDocument(client: QueryClient, id: string): Promise<unknown> {
  const ofDocument = [
    'document',
    'versions',
    'visibility',
    'saves',
    'so-far',
    'custody',
    'distribution',
    'limit',
  ].map((name) => [name, id]);
  return Promise.all([
    ...[...ofDocument, ['shelf'], ['desk'], ['merge']].map((queryKey) => readAgain(client, { queryKey })),
    readAgain(client, { queryKey: ['documents'], predicate: (query) => !isLong(query.state.data) }),
    mendLongLists(client, id),
  ]);
}

/** Parts of a list that are read again at once after each act of somebody. */
const fewParts = 4;

const isLong = (data: unknown): data is InfiniteData<DocumentList> =>
  ((data as Partial<InfiniteData<DocumentList>> | undefined)?.pages?.length ?? 0) > fewParts;

/**
 * Lists that were read far down are mended at the one document: reading all of it again would cost more and
 * more.
 */
async function mendLongLists(client: QueryClient, id: string): Promise<void> {
  const long = client
    .getQueriesData<unknown>({ queryKey: ['documents'] })
    .flatMap(([key, data]) => (isLong(data) && holds(data, id) ? [key] : []));
  if (long.length === 0) return;
  const present = await client.fetchQuery({ ...documentQuery(id), staleTime: 0 });
  for (const key of long) {
    client.setQueryData<InfiniteData<DocumentList>>(
      key,
      (data) =>
        data && {
          ...data,
          pages: data.pages.map((page) => ({
            ...page,
            items: page.items.map((document) => (document.id === id ? present : document)),
          })),
        },
    );
  }
}

const holds = ({ pages }: InfiniteData<DocumentList>, id: string): boolean =>
  pages.some(({ items }) => items.some((document) => document.id === id));
