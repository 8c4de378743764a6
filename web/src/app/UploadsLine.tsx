import { Progress } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router-dom';
import { type Sending, useUploads } from './uploads.ts';
import './UploadsLine.css';

const words = {
  waits: 'waits',
  sends: 'is sent',
  made: '',
  arrived: '',
  refused: '',
  left: 'left out',
} as const;

/**
 * Files on their way to become documents, in a line under the top bar whatever screen one is on; it opens to
 * each one's outcome.
 */
export function UploadsLine() {
  const { items, running, library, leave, clear } = useUploads();
  const [open, setOpen] = useState(false);
  if (items.length === 0) return null;
  const over = items.filter(({ state }) => state !== 'waits' && state !== 'sends').length;
  const made = items.filter(({ state }) => state === 'made').length;
  const arrived = items.filter(({ state }) => state === 'arrived').length;
  const refused = items.filter(({ state }) => state === 'refused').length;
  const share = items.find(({ state }) => state === 'sends')?.share ?? 0;
  return (
    <section className="uploads" aria-label="Files on their way">
      <div className="acts">
        <strong role="status">
          {running
            ? `${over} of ${items.length} sent to ${library?.name}`
            : made + refused > 0 && `${made} of ${items.length} are registered in ${library?.name}`}
        </strong>
        {arrived > 0 && (
          <span>
            {arrived} on your <Link to="/desk">Desk</Link>: something has to be filled in
          </span>
        )}
        {refused > 0 && <span className="alarm">{refused} refused</span>}
        {running && (
          <Progress
            className="uploads-progress"
            percent={Math.round((100 * (over + share)) / items.length)}
            size="small"
            aria-label="Progress"
          />
        )}
        <span className="top-gap" />
        <button type="button" className="quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'Roll up' : 'Each file'}
        </button>
        <button type="button" className="quiet" onClick={running ? leave : clear}>
          {running ? 'Stop here' : 'Close'}
        </button>
      </div>
      {open && (
        <ul>
          {items.map((item, index) => (
            <li key={index} className={item.state === 'refused' ? 'bulk-not' : ''}>
              <Outcome item={item} code={library?.code ?? ''} />
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

function Outcome({ item, code }: { item: Sending; code: string }) {
  const { made, title, state, problem } = item;
  if (made)
    return (
      <>
        <Link to={`/${code}/documents/${made.id}`}>{made.number}</Link> {title}
        {made.notRead && <span className="muted"> {made.notRead}</span>}
      </>
    );
  return (
    <>
      {title}{' '}
      <span className="muted">
        {words[state]}
        {state === 'arrived' && 'on your Desk. '}
        {problem}
      </span>
    </>
  );
}
