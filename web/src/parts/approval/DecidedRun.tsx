import type { Version } from '@polychron/contract';
import { fullTime, moment } from '../../ui/when.ts';
import { forOthers, outcomes, said } from './decidedWords.ts';
import './approval.css';

type Run = NonNullable<Version['approval']>;

/** Who decided about a version, when and with what words: it stays with it for good. */
export function DecidedRun({ run }: { run: Run }) {
  const decided = run.posts.filter((post) => post.decision !== null);
  return (
    <section className="decided" aria-label="Decided">
      <p>
        <strong>{outcomes[run.outcome]}</strong>,{' '}
        <span title={fullTime(run.endedAt)}>{moment(run.endedAt)}</span>. Submitted by {run.submittedBy.name},{' '}
        <span title={fullTime(run.at)}>{moment(run.at)}</span>
        {run.comment && (
          <>
            : “<bdi>{run.comment}</bdi>”
          </>
        )}
        .
      </p>
      {decided.length > 0 && (
        <ul>
          {decided.map((post) => (
            <li key={post.account}>
              {post.name} {post.decision && said[post.decision]}
              {post.inPlace && ` ${forOthers}`}
              {post.at && <span title={fullTime(post.at)}>, {moment(post.at)}</span>}
              {post.comment && (
                <>
                  : “<bdi>{post.comment}</bdi>”
                </>
              )}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
