import { routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { clockQuery } from '../parts/queries.ts';
import { call } from '../ui/api.ts';
import { Refusal } from '../ui/Refusal.tsx';
import { fullTime } from '../ui/when.ts';

/** Says so while the server's clock has leapt ahead, to whoever may confirm that the time is right. */
export function TimeLine() {
  const { data } = useQuery(clockQuery);
  const client = useQueryClient();
  const [error, setError] = useState<unknown>(null);
  if (!data?.leaptFrom || !data.mayConfirm) return null;
  const confirm = async (): Promise<void> => {
    try {
      client.setQueryData(clockQuery.queryKey, await call(routes.confirmTime));
    } catch (refused) {
      setError(refused);
    }
  };
  return (
    <div className="lost" role="status">
      The server's clock says {fullTime(data.now)}; when it was last looked at it said{' '}
      {fullTime(data.leaptFrom)}. Until somebody confirms the time nothing is thinned for its age, and nothing
      goes from the recovery shelves.{' '}
      <button type="button" className="quiet" onClick={() => void confirm()}>
        The time is right: go on
      </button>
      <Refusal error={error} />
    </div>
  );
}
