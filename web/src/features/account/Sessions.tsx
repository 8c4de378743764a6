import { routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { call } from '../../ui/api.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { dayTime } from '../../ui/when.ts';

/** Where one is signed in; each session but the present one is ended here. */
export function Sessions() {
  const client = useQueryClient();
  const { data, error } = useQuery({ queryKey: ['sessions'], queryFn: () => call(routes.listSessions) });
  const [problem, setProblem] = useState<unknown>(null);
  const end = async (id: string): Promise<void> => {
    try {
      await call(routes.endSession, { params: { id } });
    } catch (refusal) {
      setProblem(refusal);
    }
    await client.invalidateQueries({ queryKey: ['sessions'] });
  };
  return (
    <>
      <Refusal error={error ?? problem} />
      <ul className="account-list">
        {data?.items.map(({ id, createdAt, expiresAt, here }) => (
          <li key={id}>
            <strong>{here ? 'Here' : 'Elsewhere'}</strong>
            <span className="muted">since {dayTime(createdAt)}</span>
            <span className="muted">until {dayTime(expiresAt)}</span>
            {!here && (
              <button
                type="button"
                className="quiet"
                aria-label={`Sign out the session since ${dayTime(createdAt)}`}
                onClick={() => void end(id)}
              >
                Sign out there
              </button>
            )}
          </li>
        ))}
      </ul>
    </>
  );
}
