import { Link } from 'react-router-dom';
import { forget, type Unfinished } from '../../ui/unfinished.ts';
import { dayTime } from '../../ui/when.ts';
import './unfinished.css';

const isHere = (path: string, page: string): boolean => path.split('?')[0] === page;

/** Forms that were begun and not sent, with what was typed; each can be thrown away. */
export function UnfinishedList({
  forms,
  at: page,
}: {
  forms: readonly Unfinished[];
  /** The page they are told on; those of others lead there. */
  at: string;
}) {
  return (
    <ul className="unfinished">
      {forms.map(({ key, words, typed, at, path }) => (
        <li key={key}>
          <span>
            Unfinished: {isHere(path, page) ? words : <Link to={path}>{words}</Link>}
            {typed !== '' && (
              <span dir="auto"> “{typed.length > 120 ? `${typed.slice(0, 119)}…` : typed}”</span>
            )}
            <span className="muted">
              , {dayTime(at)}, kept on this device.{' '}
              {isHere(path, page) && 'Open it again, and it is filled in.'}
            </span>
          </span>
          <button type="button" className="quiet" onClick={() => forget(key)}>
            Throw it away
          </button>
        </li>
      ))}
    </ul>
  );
}
