import { useQuery } from '@tanstack/react-query';
import { Navigate } from 'react-router-dom';
import { librariesQuery, sessionQuery } from '../parts/queries.ts';
import { Waiting } from '../ui/Waiting.tsx';

/** Leads to the first library one is a member of, readers to what is in force. */
export function FirstLibrary() {
  const { data } = useQuery(librariesQuery);
  const { data: session } = useQuery(sessionQuery);
  if (!data) return <Waiting screen />;
  const mine = data.items.find((library) => library.roles.length > 0);
  // Whoever manages libraries without being in one goes where that is done.
  if (!mine && session?.systemAdministrator) return <Navigate to="/people" replace />;
  // Who only reads begins with what is in force, over all their libraries.
  const reads = data.items.every(({ roles, acts }) => roles.length === 0 || !acts.seePast.allowed);
  if (mine && reads) return <Navigate to="/in-force" replace />;
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
