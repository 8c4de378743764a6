import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router-dom';
import { librariesQuery, subjectsQuery } from '../../parts/queries.ts';

interface Props {
  /** The library that is chosen; undefined: all. */
  code: string | undefined;
  path: string | undefined;
  onChoose: (path: string | undefined) => void;
}

/** Libraries, and the subjects of the chosen one, two levels deep. */
export function Categories({ code, path, onChoose }: Props) {
  const { data: libraries } = useQuery(librariesQuery);
  const mine = libraries?.items.filter(({ roles }) => roles.length > 0) ?? [];
  return (
    <nav className="categories" aria-label="Subjects">
      <ul>
        <li>
          <Link to="/in-force" aria-current={code === undefined ? 'page' : undefined}>
            All libraries
          </Link>
        </li>
        {mine.map((library) => (
          <li key={library.id}>
            <Link
              to={`/${library.code}/in-force`}
              aria-current={library.code === code && path === undefined ? 'page' : undefined}
            >
              {library.name}
            </Link>
            {library.code === code && (
              <Level libraryId={library.id} at={undefined} path={path} onChoose={onChoose} />
            )}
          </li>
        ))}
      </ul>
    </nav>
  );
}

/** The subjects that come next on a path, and below the chosen one those after it. */
function Level({
  libraryId,
  at,
  path,
  onChoose,
}: Pick<Props, 'path' | 'onChoose'> & { libraryId: string; at: string | undefined }) {
  const { data: subjects } = useQuery(subjectsQuery(libraryId, at));
  if (!subjects || subjects.length === 0) return null;
  return (
    <ul>
      {subjects.map((subject) => {
        const isOn = path === subject.path || path?.startsWith(`${subject.path}/`);
        return (
          <li key={subject.path}>
            <button
              type="button"
              className="quiet"
              aria-current={path === subject.path || undefined}
              onClick={() => onChoose(path === subject.path ? undefined : subject.path)}
            >
              {subject.name}
            </button>
            {isOn && <Level libraryId={libraryId} at={subject.path} path={path} onChoose={onChoose} />}
          </li>
        );
      })}
    </ul>
  );
}
