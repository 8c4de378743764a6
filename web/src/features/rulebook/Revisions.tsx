import type { RulebookView } from '@polychron/contract';
import { useInfiniteQuery } from '@tanstack/react-query';
import { Refusal } from '../../ui/Refusal.tsx';
import { Link } from 'react-router-dom';
import { rulebookHistoryQuery } from '../../parts/queries.ts';
import { useLibrary } from '../../parts/useLibrary.ts';
import { date, fullTime } from '../../ui/when.ts';
import { changeWords } from './ruleWords.ts';

/** Revisions of the Rulebook: who, when, why, what; each can be proposed again. */
export function Revisions({
  libraryId,
  present,
  onLook,
}: {
  libraryId: string;
  present: number;
  onLook: (revision: RulebookView) => void;
}) {
  const pages = useInfiniteQuery(rulebookHistoryQuery(libraryId));
  const library = useLibrary();
  return (
    <section className="revisions" aria-label="Revisions of the Rulebook">
      <Refusal error={pages.error} />
      <ol>
        {pages.data?.pages
          .flatMap((page) => page.items)
          .map((revision) => (
            <li key={revision.revision}>
              <span className="number">{revision.revision}</span>
              <span>
                <strong>{revision.reason}</strong>{' '}
                <span className="muted" title={fullTime(revision.at)}>
                  {revision.by} · {date(revision.at)}
                </span>
                {library && (
                  <>
                    {' '}
                    <Link to={`/${library.code}/shelf?revision=${revision.revision}`}>what it thinned</Link>
                  </>
                )}
                {revision.changes.map((change) => (
                  <span key={change.rule} className="muted rule-change">
                    {changeWords(change)}
                  </span>
                ))}
              </span>
              {revision.revision === present ? (
                <span className="muted">in force</span>
              ) : (
                <button type="button" className="quiet" onClick={() => onLook(revision)}>
                  Propose these rules again
                </button>
              )}
            </li>
          ))}
      </ol>
      {pages.hasNextPage && (
        <button type="button" className="quiet" onClick={() => void pages.fetchNextPage()}>
          Earlier revisions
        </button>
      )}
    </section>
  );
}
