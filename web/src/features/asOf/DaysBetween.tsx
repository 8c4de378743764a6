import { numberWords } from '@polychron/core';
import type { Days } from '@polychron/contract';
import { useInfiniteQuery } from '@tanstack/react-query';
import dayjs from 'dayjs';
import { Fragment } from 'react';
import { Link } from 'react-router-dom';
import { daysQuery } from '../../parts/queries.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { Waiting } from '../../ui/Waiting.tsx';
import { date, fullTime } from '../../ui/when.ts';
import { WhenSeen } from '../../ui/WhenSeen.tsx';

type Happening = Days['items'][number];
const dayOf = ({ at }: Happening): string => dayjs(at).format('YYYY-MM-DD');

interface Props {
  libraryId: string;
  code: string;
  /** The two moments, in whichever order. */
  times: readonly [number, number];
}

/** What came into force, what left and who decided between the two lines, day by day. */
export function DaysBetween({ libraryId, code, times }: Props) {
  const [earlier, later] = [Math.min(...times), Math.max(...times)].map((time) =>
    new Date(time).toISOString(),
  ) as [string, string];
  const list = useInfiniteQuery(daysQuery(libraryId, { from: earlier, to: later }));
  const items = list.data?.pages.flatMap((page) => page.items) ?? [];
  const days = [...new Set(items.map(dayOf))];
  return (
    <section className="as-of-days" aria-label="What happened">
      <h2>
        {date(earlier)} to {date(later)}
      </h2>
      <Refusal error={list.error} />
      {list.isLoading && <Waiting lines={4} />}
      {list.data && items.length === 0 && (
        <p className="muted">Nothing came into force or left, and nobody decided.</p>
      )}
      {days.map((day) => (
        <Fragment key={day}>
          <h3>{date(day)}</h3>
          <ul>
            {items
              .filter((item) => dayOf(item) === day)
              .map((item) => (
                <li key={`${item.at} ${item.what} ${item.versionId} ${item.by?.account ?? ''}`}>
                  <Told item={item} code={code} />
                </li>
              ))}
          </ul>
        </Fragment>
      ))}
      {list.hasNextPage && (
        <WhenSeen onSeen={() => !list.isFetchingNextPage && void list.fetchNextPage()}>
          What came after comes as you read on.
        </WhenSeen>
      )}
    </section>
  );
}

function Told({ item, code }: { item: Happening; code: string }) {
  const { document, version, what, by, decision, comment, at } = item;
  const acts = { inForce: 'came into force', left: 'is in force no more' };
  return (
    <>
      <Link
        to={`/${code}/documents/${document.id}/versions/${encodeURIComponent(version)}`}
        title={document.title}
      >
        <span className="number">
          {document.number} {numberWords(version)}
        </span>
      </Link>{' '}
      <span title={fullTime(at)}>
        {what === 'decided'
          ? `${decision === 'approve' ? 'approved' : 'rejected'} by ${by?.name ?? 'somebody'}`
          : acts[what]}
      </span>
      {comment && what !== 'left' && (
        <span className="muted">
          : “<bdi>{comment}</bdi>”
        </span>
      )}
    </>
  );
}
