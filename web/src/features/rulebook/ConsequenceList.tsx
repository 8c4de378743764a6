import type { Consequences } from '@polychron/contract';
import type { KeepRule, Rulebook, ToCome } from '@polychron/core';
import { useInfiniteQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { Link } from 'react-router-dom';
import { Refusal } from '../../ui/Refusal.tsx';
import { bytes } from '../../ui/when.ts';
import { rehearse } from './useConsequences.ts';

export type ListName =
  'thinned' | 'numbers' | 'custody' | 'approvals' | `gains:${string}` | `losses:${string}`;

interface Props {
  libraryId: string;
  code: string;
  rules: Rulebook;
  list: ListName;
  onLeave: () => void;
}
type Line = { key: string; document: { id: string; number: string; title: string }; what: ReactNode };

/** What stands behind a figure, item by item, in pages. */
export function ConsequenceList({ libraryId, code, rules, list, onLeave }: Props) {
  const pages = useInfiniteQuery({
    queryKey: ['consequences', libraryId, list, rules],
    gcTime: 0,
    queryFn: ({ pageParam, signal }) =>
      rehearse(
        { libraryId, rules, query: { list, limit: 50, ...(pageParam ? { cursor: pageParam } : {}) } },
        signal,
        () => undefined,
      ),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
  });
  const lines = pages.data?.pages.flatMap((page) => linesOf(page, list)) ?? [];
  return (
    <section
      className="consequence-list"
      aria-label="What stands behind the figure"
      aria-busy={pages.isFetching}
    >
      <Refusal error={pages.error} />
      <ul>
        {lines.map(({ key, document, what }) => (
          <li key={key}>
            <Link
              to={`/${code}/documents/${document.id}`}
              className="number doc-number"
              title={document.title}
            >
              {document.number}
            </Link>
            <span>{what}</span>
          </li>
        ))}
      </ul>
      <div className="acts">
        {pages.hasNextPage && (
          <button
            type="button"
            className="quiet"
            disabled={pages.isFetchingNextPage}
            onClick={() => void pages.fetchNextPage()}
          >
            More
          </button>
        )}
        <button type="button" className="quiet" onClick={onLeave}>
          Close the list
        </button>
      </div>
    </section>
  );
}

const numbers = ({ minor, major, submittedAs }: ToCome): string =>
  [minor, submittedAs && submittedAs !== minor ? `${submittedAs} in approval` : null, major]
    .filter(Boolean)
    .join(' or ');
const ruleWords: Record<KeepRule, string> = {
  published: 'more published versions than stay',
  draftsStay: 'a draft whose time is over',
  newestDrafts: 'not among the newest drafts of its published version',
};

function linesOf(page: Consequences, list: ListName): Line[] {
  if (list === 'thinned')
    return page.thinned.items.map(({ document, versionId, label, size, rule }) => ({
      key: versionId,
      document,
      what: (
        <>
          <span className="number">{label}</span> · {bytes(size)} · {ruleWords[rule]}
        </>
      ),
    }));
  if (list === 'approvals')
    return page.approvals.map(({ document, label, waitingFor }) => ({
      key: document.id,
      document,
      what: (
        <>
          <span className="number">{label}</span> waits for {waitingFor.join(', ')}; a draft again
        </>
      ),
    }));
  if (list === 'custody')
    return page.custody.map(({ document, holder, base, now, then }) => ({
      key: document.id,
      document,
      what: (
        <>
          {holder} holds <span className="number">{base}</span>: checks in as {numbers(then)} instead of{' '}
          {numbers(now)}
        </>
      ),
    }));
  if (list === 'numbers')
    return page.numbers.map(({ document, now, then, becomes }) => ({
      key: document.id,
      document,
      what: (
        <>
          {becomes && (
            <>
              becomes <span className="number">{becomes}</span>;{' '}
            </>
          )}
          next {numbers(then)} instead of {numbers(now)}
        </>
      ),
    }));
  return page.sight.items.map(({ document, versionId, label, state }) => ({
    key: versionId,
    document,
    what: (
      <>
        <span className="number">{label}</span> · {state === 'inApproval' ? 'in approval' : state}
      </>
    ),
  }));
}
