import { routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Progress } from 'antd';
import { useEffect } from 'react';
import { call } from '../../ui/api.ts';
import { Refusal } from '../../ui/Refusal.tsx';

/** Between two looks at how far it is, in milliseconds. */
const patience = 1000;

/** How far the handing over of what somebody answered for is; it goes on when the page is left. */
export function HandingOver({ job: id, name }: { job: string; name: string }) {
  const client = useQueryClient();
  const { data: job, error } = useQuery({
    queryKey: ['job', id],
    queryFn: () => call(routes.readJob, { params: { id } }),
    refetchInterval: patience,
  });
  const over = job?.state === 'done';
  useEffect(() => {
    if (over) void client.invalidateQueries({ queryKey: ['people'] });
  }, [over, client]);
  if (!job) return <Refusal error={error} />;
  const { done, total, problem } = job;
  return (
    <div className="handing-over" role="status">
      <Progress
        percent={total ? Math.round((done / total) * 100) : 0}
        size="small"
        showInfo={false}
        aria-label={`Handing over what ${name} answers for`}
      />
      {problem?.detail ??
        (total === null
          ? `What ${name} answers for waits to be handed over.`
          : `${done} of ${total} documents handed over.`)}{' '}
      <span className="muted">It goes on when you leave this page.</span>
    </div>
  );
}
