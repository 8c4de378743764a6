import type { ApprovalQuery } from '@polychron/contract';
import { useInfiniteQuery } from '@tanstack/react-query';
import { approvalsQuery } from '../../parts/queries.ts';

/** One list of what was submitted, as far as it was fetched. */
export function useApprovals(part: ApprovalQuery['part'], state: ApprovalQuery['state']) {
  const list = useInfiniteQuery(approvalsQuery({ part, state }));
  return {
    items: list.data?.pages.flatMap((page) => page.items) ?? [],
    total: list.data?.pages[0]?.total ?? 0,
    isRead: list.data !== undefined,
    error: list.error,
    readAt: list.dataUpdatedAt,
    more: list.hasNextPage ? () => void list.fetchNextPage() : null,
  };
}

export type List = ReturnType<typeof useApprovals>;
