import { useInfiniteQuery } from '@tanstack/react-query';
import type { Document } from '@polychron/contract';
import { Link } from 'react-router-dom';
import { Nowhere } from '../../ui/Nowhere.tsx';
import { useLibrary } from '../../parts/useLibrary.ts';
import { documentsQuery } from '../../parts/queries.ts';
import { VersionNumber } from '../../parts/versionNumber/VersionNumber.tsx';
import { date } from '../../ui/when.ts';
import './inForce.css';

/** The readers' place: what holds now, by subject. */
export function InForcePage() {
  const library = useLibrary();
  const list = useInfiniteQuery({ ...documentsQuery(library?.id ?? '', {}), enabled: Boolean(library) });
  if (library === null) return <Nowhere />;
  if (list.error) return <Nowhere error={list.error} />;
  const documents =
    list.data?.pages.flatMap((page) => page.items).filter((document) => document.inForce) ?? [];
  const subjects = [...new Set(documents.map(subjectOf))].sort();
  return (
    <main className="in-force">
      <h1>In force</h1>
      {list.data && documents.length === 0 && (
        <p className="empty">Nothing is in force in this library yet.</p>
      )}
      {subjects.map((subject) => (
        <section key={subject}>
          <h2>{subject}</h2>
          <ul>
            {documents
              .filter((document) => subjectOf(document) === subject)
              .map((document) => (
                <li key={document.id}>
                  <span className="number doc-number">{document.number}</span>
                  <Link to={`/${library?.code}/documents/${document.id}`}>
                    {document.inForce?.fields.title}
                  </Link>
                  {document.inForce && (
                    <VersionNumber version={document.inForce} why={document.inForce.why} />
                  )}
                  <span className="muted">
                    {document.inForce?.inForceFrom && `since ${date(document.inForce.inForceFrom)}`}
                  </span>
                </li>
              ))}
          </ul>
        </section>
      ))}
      {list.hasNextPage && (
        <button type="button" className="quiet more" onClick={() => void list.fetchNextPage()}>
          More documents
        </button>
      )}
    </main>
  );
}

const subjectOf = (document: Document): string =>
  document.inForce?.fields.subject?.[0] ?? 'without a subject';
