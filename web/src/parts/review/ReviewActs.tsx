import { type Document, routes } from '@polychron/contract';
import { proposedReview, reviewState, numberWords } from '@polychron/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { call, PageError } from '../../ui/api.ts';
import { Consequences } from '../../ui/Consequences.tsx';
import { DateField } from '../../ui/dates.tsx';
import { date, fullTime } from '../../ui/when.ts';
import { refreshDocument, sessionQuery } from '../queries.ts';
import { useUnfinished } from '../../ui/unfinished.ts';
import { aboutDocument } from '../unfinished/about.ts';
import '../standing/standing.css';

interface Props {
  document: Document;
}

/**
 * By when what is in force is to be reviewed, who reviewed it last, and reviewing it. The date is said under
 * a heading, where nothing else says it.
 */
export function ReviewActs({ document, heading = false }: Props & { heading?: boolean }) {
  const [reviewing, setReviewing] = useState(false);
  const { inForce, reviewBy, lastReview, acts } = document;
  if (!inForce || (reviewBy === null && lastReview === null && !acts.review.allowed)) return null;
  const due = reviewState(reviewBy, new Date());
  return (
    <div className="standing-acts">
      {heading && <h2>Review</h2>}
      {heading && reviewBy !== null && (
        <p className={due === 'passed' ? 'overdue' : ''}>
          {due === 'passed' ? 'Was to be reviewed by' : 'To be reviewed by'} {date(reviewBy)}
          {due === 'soon' && ', soon'}.
        </p>
      )}
      {lastReview && (
        <p className="muted">
          {lastReview.by.name} reviewed {numberWords(inForce.label)} on{' '}
          <span title={fullTime(lastReview.at)}>{date(lastReview.at)}</span>:{' '}
          {lastReview.outcome === 'confirmed' ? 'confirmed' : 'it is to be changed'}
          {lastReview.comment && (
            <>
              : “<bdi>{lastReview.comment}</bdi>”
            </>
          )}
          .
        </p>
      )}
      {reviewing && <Reviewing document={document} onLeave={() => setReviewing(false)} />}
      {!reviewing && acts.review.allowed && (
        <div className="acts">
          <button type="button" className="quiet" onClick={() => setReviewing(true)}>
            Review {numberWords(inForce.label)}
          </button>
        </div>
      )}
    </div>
  );
}

/** What is in force holds on until another date, or is to be changed. */
function Reviewing({ document, onLeave }: Props & { onLeave: () => void }) {
  const client = useQueryClient();
  const { id, inForce, latest, reviewBy, lastReview, toCome } = document;
  const since = new Date(lastReview?.at ?? inForce?.inForceFrom ?? latest.at);
  const [proposed] = useState(() => proposedReview({ since, by: reviewBy, now: new Date() }));
  const form = useUnfinished<{ comment: string; nextBy: string | null }>(
    aboutDocument(document, 'review', 'Review'),
    { comment: '', nextBy: proposed },
  );
  const { nextBy } = form.value;
  const label = numberWords(inForce?.label ?? '');
  const { data: session } = useQuery(sessionQuery);
  const told = document.owner.account === session?.account ? null : document.owner.name;
  const opens = latest.id === inForce?.id && toCome?.minor && !document.custody ? toCome.minor : null;
  const go = async (outcome: 'confirmed' | 'opened', comment: string): Promise<void> => {
    if (outcome === 'opened' && comment.trim() === '') {
      throw new PageError('Say in a sentence what is to be changed.');
    }
    await call(routes.review, {
      params: { id },
      body: { outcome, comment, nextBy: outcome === 'confirmed' ? nextBy : null },
    });
    await refreshDocument(client, id);
  };
  return (
    <Consequences
      commentHint="What you found (for a change: what is to be changed)"
      form={form}
      outcomes={[
        {
          label: nextBy ? `Confirm ${label}, next review by ${date(nextBy)}` : `Confirm ${label}`,
          act: (comment) => go('confirmed', comment),
          primary: true,
        },
        {
          label: opens ? `Change it: open draft ${opens}` : 'It is to be changed',
          act: (comment) => go('opened', comment),
        },
      ]}
      onLeave={onLeave}
    >
      Readers keep {label} either way.{told && ` ${told} is told.`}
      <label className="moment">
        Next review by{' '}
        <DateField
          name="Next review by"
          value={nextBy}
          empty="no date"
          onChange={(chosen) => form.change({ nextBy: chosen })}
        />
      </label>
    </Consequences>
  );
}
