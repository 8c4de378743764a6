import type { SessionList, Token } from '@polychron/contract';
import { date, dayTime } from '../../ui/when.ts';
import './signIns.css';

/** Sessions that go on; each but the one this page is shown in can be ended. */
export function Sessions({
  items,
  onEnd,
}: {
  items: SessionList['items'];
  onEnd: (id: string) => Promise<void>;
}) {
  return (
    <ul className="sign-ins">
      {items.map(({ id, createdAt, expiresAt, here }) => (
        <li key={id}>
          <strong>{here ? 'Here' : 'Elsewhere'}</strong>
          <span className="muted">since {dayTime(createdAt)}</span>
          <span className="muted">until {dayTime(expiresAt)}</span>
          {!here && (
            <button
              type="button"
              className="quiet"
              aria-label={`Sign out the session since ${dayTime(createdAt)}`}
              onClick={() => void onEnd(id)}
            >
              Sign out there
            </button>
          )}
        </li>
      ))}
    </ul>
  );
}

const mayDo = { read: 'reads', work: 'reads and works' };

/** Personal tokens, with what they may and until when. */
export function Tokens({ items, onRevoke }: { items: readonly Token[]; onRevoke: (token: Token) => void }) {
  return (
    <ul className="sign-ins">
      {items.map((token) => (
        <li key={token.id}>
          <strong>{token.name}</strong>
          <span className="muted">
            {mayDo[token.scope]}, {token.until ? untilWords(token.until) : 'without end'}
          </span>
          <span className="muted">
            since {date(token.createdAt)},{' '}
            {token.lastUsedAt ? `last used ${date(token.lastUsedAt)}` : 'not used yet'}
          </span>
          <button
            type="button"
            className="quiet"
            aria-label={`Revoke ${token.name}`}
            onClick={() => onRevoke(token)}
          >
            Revoke
          </button>
        </li>
      ))}
    </ul>
  );
}

const untilWords = (until: string): string =>
  new Date(until).getTime() > Date.now() ? `until ${dayTime(until)}` : `over since ${dayTime(until)}`;
