import { useQuery } from '@tanstack/react-query';
import { Navigate } from 'react-router-dom';
import { librariesQuery, sessionQuery } from '../shared/queries.ts';

/** Leads to the first library one is a member of; whoever is in none is told so. */
export function FirstLibrary() {
  const { data } = useQuery(librariesQuery);
  const { data: session } = useQuery(sessionQuery);
  if (!data) return null;
  const mine = data.items.find((library) => library.roles.length > 0);
  // Whoever manages libraries without being in one goes where that is done.
  if (!mine && session?.siteAdministrator) return <Navigate to="/people" replace />;
  if (mine) return <Navigate to={`/${mine.code}`} replace />;
  return (
    <main className="nowhere">
      <h1>You are in no library yet</h1>
      <p>A library's controller or a site administrator can make you a member. {data.items.length > 0 && `There ${data.items.length === 1 ? 'is one library' : `are ${data.items.length} libraries`} here: ${data.items.map((library) => library.name).join(', ')}.`}</p>
    </main>
  );
}
