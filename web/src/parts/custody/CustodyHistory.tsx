import type { CustodyPeriod } from '@polychron/contract';
import { useInfiniteQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { custodyHistoryQuery } from '../queries.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { day, fullTime } from '../../ui/when.ts';

/** Who held a document before, read when asked for. */
export function CustodyHistory({ documentId }: { documentId: string }) {
  const [open, setOpen] = useState(false);
  const list = useInfiniteQuery({ ...custodyHistoryQuery(documentId), enabled: open });
  const periods = list.data?.pages.flatMap((page) => page.items) ?? [];
  return (
    <>
      <button type="button" className="quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
        Custody history
      </button>
      {open && (
        <>
          <Refusal error={list.error} />
          {list.data && periods.length === 0 && <p className="muted">Nobody so far.</p>}
          <ol className="custody-history" aria-label="Custody history">
            {periods.map((period) => (
              <li key={period.since}>
                <Period period={period} />
              </li>
            ))}
          </ol>
          {list.hasNextPage && (
            <button type="button" className="quiet more" onClick={() => void list.fetchNextPage()}>
              Earlier
            </button>
          )}
        </>
      )}
    </>
  );
}

/** What became of a check-out. */
function Ended({ period }: { period: CustodyPeriod }) {
  const { how, endedBy, endReason, version } = period;
  if (how === null) return null;
  if (how === 'lifted')
    return (
      <>
        {' · '}lifted by {endedBy?.name}
        {endReason && <>: “{endReason}”</>}
      </>
    );
  if (how === 'handedOver') return <> · handed over by {endedBy?.name}</>;
  if (how === 'givenBack') return <> · given back without a version</>;
  return (
    <>
      {' · '}checked in{version && ' as '}
      {version && <span className="number">{version}</span>}
    </>
  );
}

function Period({ period }: { period: CustodyPeriod }) {
  const { holder, since, endedAt, base, reason } = period;
  return (
    <>
      <strong>{holder.name}</strong>{' '}
      <span className="muted" title={`${fullTime(since)}${endedAt ? ` to ${fullTime(endedAt)}` : ''}`}>
        {day(since)}
        {endedAt ? ` to ${day(endedAt)}` : ', holds it now'}
      </span>
      {base && (
        <span className="muted">
          {' '}
          from <span className="number">{base}</span>
        </span>
      )}
      <Ended period={period} />
      {reason && (
        <span className="muted">
          {' '}
          · “<bdi>{reason}</bdi>”
        </span>
      )}
    </>
  );
}
