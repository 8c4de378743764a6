import { Progress } from 'antd';
import { Link } from 'react-router-dom';
import { useUploads } from '../features/register/uploads.ts';

const words = { waits: 'waits', sends: 'is sent', made: '', refused: '', left: 'left out' } as const;

/** Files on their way to become documents, whatever screen one is on, each with its outcome. */
export function UploadTray() {
  const { items, running, library, leave, clear } = useUploads();
  if (items.length === 0) return null;
  const over = items.filter(({ state }) => state !== 'waits' && state !== 'sends').length;
  return (
    <section className="tray" aria-label="Files on their way">
      <div className="acts">
        <strong role="status">{running ? `${over} of ${items.length} registered in ${library?.name}` : `${items.filter(({ state }) => state === 'made').length} of ${items.length} are registered in ${library?.name}`}</strong>
        {running ? <button type="button" className="quiet" onClick={leave}>Leave the rest</button> : <button type="button" className="quiet" onClick={clear}>Close</button>}
      </div>
      <Progress percent={Math.round(100 * (over + (items.find(({ state }) => state === 'sends')?.share ?? 0)) / items.length)} size="small" aria-label="Progress" />
      <ul>
        {items.map((item, index) => (
          <li key={index} className={item.state === 'refused' ? 'bulk-not' : ''}>
            {item.made ? <><Link to={`/${library?.code}/documents/${item.made.id}`}>{item.made.number}</Link> {item.title}</> : <>{item.title} <span className="muted">{words[item.state]}{item.problem}</span></>}
          </li>
        ))}
      </ul>
    </section>
  );
}
