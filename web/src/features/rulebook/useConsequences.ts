import { routes, type Consequences, type ConsequencesQuery, type Job } from '@polychron/contract';
import type { Rulebook } from '@polychron/core';
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { PageError, ask, call } from '../../ui/api.ts';

/** Waits for typing and dragging to pause before asking, in milliseconds. */
const pause = 250;
/** Between two looks at a long computation. */
const patience = 500;

export interface Rehearsed {
  consequences: Consequences | null;
  progress: number | null;
  error: unknown;
  cancel: () => void;
}

/**
 * What proposed rules would do, computed by the server while one chooses; a newer proposal ends the one under
 * way.
 */
export function useConsequences(
  libraryId: string,
  rules: Rulebook | null,
  query: Partial<ConsequencesQuery>,
): Rehearsed {
  const client = useQueryClient();
  const [share, setShare] = useState(0);
  const queryKey = ['rehearsal', libraryId, rules, query];
  const { data, error, isFetching } = useQuery({
    queryKey,
    enabled: rules !== null,
    gcTime: 0,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: async ({ signal }) => {
      setShare(0);
      await new Promise((resolve) => {
        setTimeout(resolve, pause);
      });
      if (signal.aborted) throw new DOMException('cancelled', 'AbortError');
      return rehearse({ libraryId, rules: rules as Rulebook, query }, signal, setShare);
    },
  });
  return {
    consequences: data ?? null,
    progress: isFetching ? share : null,
    error,
    cancel: () => void client.cancelQueries({ queryKey }),
  };
}

/** Asks once; a long answer is fetched from its job, and ended there when nobody wants it any more. */
export async function rehearse(
  { libraryId, rules, query }: { libraryId: string; rules: Rulebook; query: Partial<ConsequencesQuery> },
  signal: AbortSignal,
  onShare: (share: number) => void,
): Promise<Consequences> {
  const { answer, status } = await ask(routes.consequences, {
    params: { id: libraryId },
    query,
    body: rules,
    headers: { Prefer: 'respond-async, wait=1' },
    signal,
  });
  if (status !== 202) return answer;
  let job = answer as unknown as Job;
  while (job.state === 'running' || job.state === 'queued') {
    onShare(job.total ? job.done / job.total : 0);
    await new Promise((resolve) => {
      setTimeout(resolve, patience);
    });
    if (signal.aborted) {
      await call(routes.cancelJob, { params: { id: job.id } });
      throw new DOMException('cancelled', 'AbortError');
    }
    job = await call(routes.readJob, { params: { id: job.id } });
  }
  if (!job.result) throw new PageError(job.problem?.detail ?? 'the computation ended without a result');
  return job.result;
}
