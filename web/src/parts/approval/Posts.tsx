import type { Approval } from '@polychron/contract';
import { dayTime, fullTime } from '../../ui/when.ts';
import { forOthers } from './decidedWords.ts';
import './approval.css';

const modes = {
  serial: 'Its approvers decide one after another',
  together: 'All of its approvers decide',
  anyOne: 'One approver is enough',
} as const;

/** Who submitted a version, who is asked about it, and what each said. */
export function Posts({ approval }: { approval: Approval }) {
  return (
    <>
      <p>
        <strong>{approval.version}</strong> was submitted by {approval.submittedBy.name},{' '}
        <span title={fullTime(approval.at)}>{dayTime(approval.at)}</span>
        {approval.comment && (
          <>
            : “<bdi>{approval.comment}</bdi>”
          </>
        )}
        . {modes[approval.mode]}:
      </p>
      <ol className="posts">
        {approval.posts.map((post) => (
          <li key={post.person.account}>
            <span className={post.decision === 'approve' ? 'post post-decided' : 'post'} aria-hidden="true" />{' '}
            {post.person.name}{' '}
            <span className="muted">
              {postWords(post, approval)}
              {post.inPlace && ` ${forOthers}`}
              {post.at && `, ${dayTime(post.at)}`}
              {post.comment && `: “${post.comment}”`}
            </span>
          </li>
        ))}
      </ol>
    </>
  );
}

type Post = Approval['posts'][number];
const decisionWords = { approve: 'approved', reject: 'rejected', later: 'did not decide yet' } as const;

function postWords({ decision, person }: Post, { waitingFor }: Approval): string {
  if (decision) return decisionWords[decision];
  const now = waitingFor.some(({ account }) => account === person.account);
  return now ? 'is asked now' : 'is asked afterwards';
}
