import { type Document, type Library, routes } from '@polychron/contract';
import { useQueries, useQuery } from '@tanstack/react-query';
import { Link, useSearchParams } from 'react-router-dom';
import { labelWords, stateWords } from '../../parts/versionNumber/VersionNumber.tsx';
import { librariesQuery } from '../../parts/queries.ts';
import { call } from '../../ui/api.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { Waiting } from '../../ui/Waiting.tsx';
import './find.css';

/** Documents shown of each library; its Register has the others. */
const ofEach = 10;

/** What is looked for, in all libraries one is in. */
export function FindPage() {
  const [search] = useSearchParams();
  const q = search.get('q') ?? '';
  const { data: libraries } = useQuery(librariesQuery);
  const mine = libraries?.items.filter(({ roles }) => roles.length > 0) ?? [];
  const found = useQueries({
    queries: mine.map(({ id }) => ({
      queryKey: ['documents', id, { q }, 'first'],
      queryFn: () => call(routes.listDocuments, { params: { id }, query: { q, limit: ofEach } }),
      enabled: q !== '',
    })),
  });
  const waiting = !libraries || (q !== '' && found.some(({ isLoading }) => isLoading));
  const total = found.reduce((sum, { data }) => sum + (data?.total ?? 0), 0);
  return (
    <main className="find-page">
      <h1>{q === '' ? 'Find a document' : `“${q}” in all your libraries`}</h1>
      {q === '' && <p>Type a number, a word of a title, field or comment, or of the text, above.</p>}
      {waiting && <Waiting />}
      {!waiting && q !== '' && total === 0 && (
        <p className="empty">No document you see in {mine.length} libraries has that.</p>
      )}
      {mine.map((library, index) => {
        const { data, error } = found[index] ?? {};
        if (error) return <Refusal key={library.id} error={error} />;
        if (!data || data.total === 0) return null;
        return <OfLibrary key={library.id} library={library} q={q} {...data} />;
      })}
    </main>
  );
}

interface OfLibraryProps {
  library: Library;
  q: string;
  items: Document[];
  total: number;
  about: boolean;
}

function OfLibrary({ library, q, items, total, about }: OfLibraryProps) {
  return (
    <section aria-label={library.name}>
      <h2>
        {library.name}{' '}
        <Link to={`/${library.code}?q=${encodeURIComponent(q)}`}>
          {total === 1 ? '1 document' : `${about ? 'about ' : ''}${total} documents`}
        </Link>
      </h2>
      <ul>
        {items.map(({ id, number, title, inForce, latest }) => (
          <li key={id}>
            <span className="number doc-number">{number}</span>
            <Link to={`/${library.code}/documents/${id}`} className="title">
              <bdi>{title}</bdi>
            </Link>
            <span className="muted">
              {inForce ? `${labelWords(inForce)} in force` : 'nothing in force'}
              {latest.id !== inForce?.id && ` · ${labelWords(latest)} ${stateWords(latest)}`}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
