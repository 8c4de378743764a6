import type { CustodyPeriod } from '@polychron/contract';
import { useInfiniteQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { custodyHistoryQuery } from './queries.ts';
import { Refusal } from './Refusal.tsx';
import { day, fullTime } from './when.ts';

/** Who held a document before, read when asked for. */
export function CustodyHistory({ documentId }: { documentId: string }) {
  const [open, setOpen] = useState(false);
  const list = useInfiniteQuery({ ...custodyHistoryQuery(documentId), enabled: open });
  const periods = list.data?.pages.flatMap((page) => page.items) ?? [];
  return (
    <>
      <button type="button" className="quiet" aria-expanded={open} onClick={() => setOpen(!open)}>Who held it before</button>
      {open && (
        <>
          <Refusal error={list.error} />
          {list.data && periods.length === 0 && <p className="muted">Nobody so far.</p>}
          <ol className="custody-history" aria-label="Custody history">
            {periods.map((period) => <li key={period.since}><Period period={period} /></li>)}
          </ol>
          {list.hasNextPage && <button type="button" className="quiet more" onClick={() => void list.fetchNextPage()}>Earlier</button>}
        </>
      )}
    </>
  );
}

function Period({ period }: { period: CustodyPeriod }) {
  const { holder, since, endedAt, how, endedBy, endReason, version, base, reason } = period;
  const ended = how === 'lifted' ? <>lifted by {endedBy?.name}{endReason && <>: “{endReason}”</>}</>
    : how === 'discarded' ? 'given back without a version' : version ? <>checked in as <span className="number">{version}</span></> : how === 'checkedIn' ? 'checked in' : null;
  return (
    <>
      <strong>{holder.name}</strong> <span className="muted" title={`${fullTime(since)}${endedAt ? ` to ${fullTime(endedAt)}` : ''}`}>{day(since)}{endedAt ? ` to ${day(endedAt)}` : ', holds it now'}</span>
      {base && <span className="muted"> from <span className="number">{base}</span></span>}{ended && <> · {ended}</>}{reason && <span className="muted"> · “{reason}”</span>}
    </>
  );
}
