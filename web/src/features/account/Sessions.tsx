import { routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Sessions as SessionLines } from '../../parts/signIns/SignInLists.tsx';
import { call } from '../../ui/api.ts';
import { Refusal } from '../../ui/Refusal.tsx';

/** Where one is signed in; each session but the present one is ended here, or all of them at once. */
export function Sessions() {
  const client = useQueryClient();
  const { data, error } = useQuery({ queryKey: ['sessions'], queryFn: () => call(routes.listSessions) });
  const [problem, setProblem] = useState<unknown>(null);
  const after = async (ended: Promise<unknown>): Promise<void> => {
    await ended.catch(setProblem);
    await client.invalidateQueries({ queryKey: ['sessions'] });
  };
  return (
    <>
      <Refusal error={error ?? problem} />
      <SessionLines
        items={data?.items ?? []}
        onEnd={(id) => after(call(routes.endSession, { params: { id } }))}
      />
      {(data?.total ?? 0) > 2 && (
        <button type="button" className="quiet" onClick={() => void after(call(routes.endOtherSessions))}>
          Sign out everywhere else
        </button>
      )}
    </>
  );
}
