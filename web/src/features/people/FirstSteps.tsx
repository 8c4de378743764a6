import type { Library } from '@polychron/contract';
import { useInfiniteQuery } from '@tanstack/react-query';
import { Link } from 'react-router-dom';
import { peopleQuery } from '../../parts/queries.ts';

interface Props {
  /** The first library there is; null where there is none. */
  library: Library | null;
  onAccounts: () => void;
  onLibrary: () => void;
}

/** What an administrator of an empty site does first, in order, with what is done of it. */
export function FirstSteps({ library, onAccounts, onLibrary }: Props) {
  const { data } = useInfiniteQuery(peopleQuery('', true));
  const accounts = data?.pages[0]?.total ?? 1;
  const steps = [
    {
      done: accounts > 1,
      act: (
        <button type="button" className="quiet" onClick={onAccounts}>
          Make accounts
        </button>
      ),
      why: 'for the people who write, approve and read; one of them controls the library',
    },
    {
      done: library !== null,
      act: (
        <button type="button" className="quiet" onClick={onLibrary}>
          Make a library
        </button>
      ),
      why: 'for documents that share rules: a name, a code for their numbers, its first controller',
    },
    {
      done: false,
      act: <>Choose its members</>,
      why: 'below, by role: its controller can do that too',
    },
    {
      done: false,
      act: library?.acts.create.allowed ? (
        <Link to={`/${library.code}`}>Register the first document</Link>
      ) : (
        <>Its authors register the first document</>
      ),
      why: 'by dropping its file on the Register; the Rulebook says how it is numbered and who sees drafts',
    },
  ];
  return (
    <section className="first-steps" aria-label="First steps">
      <h2>First steps</h2>
      <ol>
        {steps.map(({ done, act, why }, place) => (
          <li key={place} className={done ? 'done' : ''}>
            <strong>{act}</strong> <span className="muted">{done ? 'done' : why}</span>
          </li>
        ))}
      </ol>
    </section>
  );
}
