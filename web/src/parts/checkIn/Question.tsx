import { Button } from 'antd';
import { Refusal } from '../../ui/Refusal.tsx';
import type { CheckInFlow } from './useCheckInFlow.ts';

/** What is asked before a version is made, with a yes; or why none was made. */
export function Question({ flow }: { flow: CheckInFlow<never> }) {
  const { question, problem, busy } = flow;
  if (!question) return <Refusal error={problem} />;
  return (
    <div className="refusal" role="alert">
      <span>{question.detail}</span>
      <Button size="small" loading={busy} onClick={flow.sayYes}>
        Yes, check it in
      </Button>
    </div>
  );
}
