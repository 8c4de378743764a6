import { type ApprovalRun, waitingFor } from '../rules/approvalRun.ts';
import type { Notice } from './state.ts';

/** Tells those whose decision a run waits for now, and did not before. */
export function noticeToDecide(
  documentId: string,
  label: string,
  before: ApprovalRun | null,
  after: ApprovalRun,
): Notice[] {
  const asked = before ? waitingFor(before).map(({ personId }) => personId) : [];
  const personIds = waitingFor(after)
    .map(({ personId }) => personId)
    .filter((id) => !asked.includes(id));
  if (personIds.length === 0) return [];
  return [
    {
      kind: 'toDecide',
      personIds,
      about: `toDecide:${documentId}:${after.submittedAt.getTime()}`,
      facts: { label, by: after.submitterName },
    },
  ];
}
