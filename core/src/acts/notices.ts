import { type ApprovalRun, waitingFor } from '../rules/approvalRun.ts';
import type { Actor } from '../rules/roles.ts';
import type { DocumentState, Notice } from './state.ts';

/** People of a document who are told what another did about one of its versions. */
export const concerned = (
  state: Pick<DocumentState, 'ownerId'>,
  actor: Pick<Actor, 'id'>,
  ...others: readonly string[]
): string[] => [...new Set([state.ownerId, ...others])].filter((id) => id !== actor.id);

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
