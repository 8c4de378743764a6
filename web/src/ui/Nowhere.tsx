import { Link, useRouteError } from 'react-router-dom';
import { sentenceOf } from './api.ts';
import './Nowhere.css';

/** Shown where nothing is, or where a page failed. */
export function Nowhere({ error }: { error?: unknown }) {
  const thrown = useRouteError();
  const problem = error ?? thrown;
  return (
    <main className="nowhere">
      <h1>{problem ? 'This cannot be shown' : 'Nothing is at this address'}</h1>
      <p>{problem ? sentenceOf(problem) : 'Check the address; or you may not have access.'}</p>
      <Link to="/">Go to the first page</Link>
    </main>
  );
}
