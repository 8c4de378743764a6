import { numberWords } from '@polychron/core';
import { useInfiniteQuery } from '@tanstack/react-query';
import { decidedPosts } from '../../parts/approval/decidedWords.ts';
import { approvalsQuery } from '../../parts/queries.ts';

const titles = { approved: 'Approved, to be published', rejected: 'Rejected' } as const;

/** What came of one's submissions and asks for something: with who decided, and their words. */
export function Decided({
  state,
  chosen,
  onChoose,
}: {
  state: keyof typeof titles;
  chosen: string | undefined;
  onChoose: (id: string) => void;
}) {
  const list = useInfiniteQuery(approvalsQuery({ part: 'out', state }));
  const items = list.data?.pages.flatMap((page) => page.items) ?? [];
  if (items.length === 0) return null;
  return (
    <section aria-label={titles[state]}>
      <h2>
        {titles[state]} <small>{list.data?.pages[0]?.total}</small>
      </h2>
      <ol className="approvals-items">
        {items.map(({ document, version, posts }) => (
          <li key={document.id} className={document.id === chosen ? 'approvals-chosen' : ''}>
            <button
              type="button"
              className="approvals-item"
              aria-current={document.id === chosen || undefined}
              onClick={() => onChoose(document.id)}
            >
              <span className="approvals-name">
                <span className="number doc-number">{document.number}</span> <bdi>{document.title}</bdi>
              </span>
              <span className="muted">
                <span className="number">{numberWords(version)}</span> · {document.library.name}
              </span>
              {decidedPosts(posts).map((words) => (
                <span key={words} className="approvals-comment">
                  {words}
                </span>
              ))}
            </button>
          </li>
        ))}
      </ol>
      {list.hasNextPage && (
        <button type="button" className="quiet more" onClick={() => void list.fetchNextPage()}>
          More
        </button>
      )}
    </section>
  );
}
