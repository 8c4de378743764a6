import type { Version } from '@polychron/contract';
import { dayTime } from '../../ui/when.ts';

type Run = NonNullable<Version['approval']>;

export const outcomes = {
  approved: 'Approved',
  rejected: 'Rejected',
  calledBack: 'The submission was taken back',
  rulesChanged: 'No longer asked: approval was turned off',
} as const;
export const said = { approve: 'agreed', reject: 'rejected', later: 'did not decide yet' } as const;

/** Who decided about a version and when, in one sentence: "Approved: A. Kilbride agreed 3 Nov 09:12". */
export function decidedWords({ outcome, posts }: Pick<Run, 'outcome' | 'posts'>): string {
  const words = posts.flatMap(({ name, decision, at }) =>
    decision === null ? [] : [[name, said[decision], at && dayTime(at)].filter(Boolean).join(' ')],
  );
  return [outcomes[outcome], words.join(', ')].filter(Boolean).join(': ');
}
