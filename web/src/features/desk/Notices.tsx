import { routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router-dom';
import { call } from '../../ui/api.ts';
import { deskQuery } from '../../parts/queries.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { dayTime, fullTime } from '../../ui/when.ts';

/** What one was told, the newest first. */
export function Notices() {
  const client = useQueryClient();
  const { data: desk } = useQuery(deskQuery);
  const [error, setError] = useState<unknown>(null);
  if (!desk) return null;
  const newest = desk.notices[0];
  const read = async (): Promise<void> => {
    try {
      await call(routes.readNotices, { body: { upTo: newest?.id } });
      await client.invalidateQueries({ queryKey: ['desk'] });
    } catch (refusal) {
      setError(refusal);
    }
  };
  return (
    <aside className="notices" aria-label="Notices">
      <h2>Notices {desk.unread > 0 && <small>{desk.unread} new</small>}</h2>
      <Refusal error={error} onLeave={() => setError(null)} />
      {desk.notices.length === 0 && <p className="muted">No notices.</p>}
      <ul>
        {desk.notices.map((notice) => (
          <li key={notice.id} className={notice.read ? '' : 'notice-new'}>
            <Link to={`/${notice.document.library.code}/documents/${notice.document.id}`}>{notice.text}</Link>{' '}
            <span className="muted" title={fullTime(notice.at)}>
              {dayTime(notice.at)}
            </span>
          </li>
        ))}
      </ul>
      {desk.unread > 0 && (
        <button type="button" className="quiet" onClick={() => void read()}>
          Mark as read
        </button>
      )}
    </aside>
  );
}
