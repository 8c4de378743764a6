import { useQuery } from '@tanstack/react-query';
import { Navigate } from 'react-router-dom';
import { librariesQuery, sessionQuery } from '../parts/queries.ts';
import { Waiting } from '../ui/Waiting.tsx';

/** Leads to the first library one is a member of; whoever is in none is told so. */
export function FirstLibrary() {
  const { data } = useQuery(librariesQuery);
  const { data: session } = useQuery(sessionQuery);
  if (!data) return <Waiting />;
  const mine = data.items.find((library) => library.roles.length > 0);
  // Whoever manages libraries without being in one goes where that is done.
  if (!mine && session?.systemAdministrator) return <Navigate to="/people" replace />;
  if (mine) return <Navigate to={`/${mine.code}`} replace />;
  return (
    <main className="nowhere">
      <h1>You are in no library yet</h1>
      <p>
        A library's controller or a system administrator can make you a member.{' '}
        {data.items.length > 0 &&
          `${data.items.length === 1 ? 'There is one library' : `There are ${data.items.length} libraries`} here: ${data.items.map(({ name }) => name).join(', ')}.`}
      </p>
    </main>
  );
}
