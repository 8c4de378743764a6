import type { Version } from '@polychron/contract';
import { moment } from '../../ui/when.ts';

type Run = NonNullable<Version['approval']>;

export const outcomes = {
  approved: 'Approved',
  rejected: 'Rejected',
  calledBack: 'The submission was taken back',
  rulesChanged: 'No longer asked: approval was turned off',
} as const;
/** Said of a controller's decision in the place of others. */
export const forOthers = 'in the place of those asked';
export const said = { approve: 'approved', reject: 'rejected', later: 'did not decide yet' } as const;

/** What each said who decided, with their words: "A. Kilbride approved 3 Nov 2026 09:12: “Good”". */
export const decidedPosts = (posts: Run['posts']): string[] =>
  posts.flatMap((post) =>
    post.decision === null ? [] : [`${postWords(post)}${post.comment ? `: “${post.comment}”` : ''}`],
  );

const postWords = ({ name, decision, inPlace, at }: Run['posts'][number]): string =>
  [name, decision && said[decision], inPlace && forOthers, at && moment(at)].filter(Boolean).join(' ');

/** Who decided about a version and when: "Approved: A. Kilbride approved 3 Nov 2026 09:12". */
export function decidedWords({ outcome, posts }: Pick<Run, 'outcome' | 'posts'>): string {
  const words = posts.flatMap((post) => (post.decision === null ? [] : [postWords(post)]));
  return [outcomes[outcome], words.join(', ')].filter(Boolean).join(': ');
}
