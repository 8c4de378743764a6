import { Link } from 'react-router-dom';
import { forget, type Unfinished } from '../../ui/unfinished.ts';
import { dayTime } from '../../ui/when.ts';
import './unfinished.css';

/** Forms that were begun and not sent, with what was typed; each can be thrown away. */
export function UnfinishedList({
  forms,
  linked = false,
}: {
  forms: readonly Unfinished[];
  linked?: boolean;
}) {
  return (
    <ul className="unfinished">
      {forms.map(({ key, words, typed, at, path }) => (
        <li key={key}>
          <span>
            Unfinished: {linked ? <Link to={path}>{words}</Link> : words}
            {typed !== '' && (
              <span dir="auto"> “{typed.length > 120 ? `${typed.slice(0, 119)}…` : typed}”</span>
            )}
            <span className="muted">
              , {dayTime(at)}, kept on this device. {!linked && 'Open it again, and it is filled in.'}
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
