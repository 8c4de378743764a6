import { numberWords } from '@polychron/core';
import type { ApprovalList, ApprovalQuery } from '@polychron/contract';
import { useInfiniteQuery } from '@tanstack/react-query';
import { Checkbox, Segmented } from 'antd';
import { useEffect, useRef, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { useSearchParams } from 'react-router-dom';
import { approvalsQuery } from '../../parts/queries.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { dayTime, fullTime } from '../../ui/when.ts';
import { Waiting } from '../../ui/Waiting.tsx';
import { ageShares, ageWords } from './age.ts';
import { Decided } from './Decided.tsx';
import { DecideMany } from './DecideMany.tsx';
import { DecisionPane } from './DecisionPane.tsx';
import './approvals.css';

type Item = ApprovalList['items'][number];
type Part = ApprovalQuery['part'];

/**
 * What waits for one's decision, and what is out for others', over all libraries; decided beside what
 * changed.
 */
export function ApprovalsPage() {
  const [search, setSearch] = useSearchParams();
  const part: Part = search.get('part') === 'out' ? 'out' : 'toDecide';
  const waiting = useInfiniteQuery(approvalsQuery({ part, state: 'inApproval' }));
  const items = waiting.data?.pages.flatMap((page) => page.items) ?? [];
  const total = waiting.data?.pages[0]?.total ?? 0;
  // What was ticked stays in view with what became of it, also once it left the list.
  const [ticked, setTicked] = useState<readonly Item[]>([]);
  const chosen = search.get('document') ?? items[0]?.document.id;
  const isListed = items.some(({ document }) => document.id === chosen);
  const choose = (id: string | undefined): void => {
    const next = new URLSearchParams(search);
    if (id === undefined) next.delete('document');
    else next.set('document', id);
    setSearch(next, { replace: true });
  };
  const isTicked = (id: string): boolean => ticked.some(({ document }) => document.id === id);
  const tick = (id: string): void => {
    const item = items.find(({ document }) => document.id === id);
    if (isTicked(id)) setTicked(ticked.filter(({ document }) => document.id !== id));
    else if (item) setTicked([...ticked, item]);
  };
  const step = (by: number): void => {
    const place = items.findIndex(({ document }) => document.id === chosen);
    const next = items[Math.min(items.length - 1, Math.max(0, place + by))];
    if (next) choose(next.document.id);
  };
  useHotkeys('down', () => step(1), { preventDefault: true }, [chosen, items]);
  useHotkeys('up', () => step(-1), { preventDefault: true }, [chosen, items]);
  useHotkeys(
    'space',
    (event) => {
      // On a button or a link the key is theirs.
      if (event.target instanceof Element && event.target.closest('button, a')) return;
      event.preventDefault();
      if (chosen && part === 'toDecide') tick(chosen);
    },
    [chosen, ticked, items, part],
  );
  /** After a decision comes the one below it, or above where it was the last. */
  const goOn = (): void => {
    const place = items.findIndex(({ document }) => document.id === chosen);
    const next = items[place + 1] ?? items[place - 1];
    setTicked(ticked.filter(({ document }) => document.id !== chosen));
    choose(next?.document.id);
  };
  return (
    <main className="approvals">
      <header className="approvals-head">
        <h1>Approvals</h1>
        <Segmented
          aria-label="Which"
          value={part}
          onChange={(value) => {
            setTicked([]);
            setSearch(value === 'out' ? { part: 'out' } : {}, { replace: true });
          }}
          options={[
            { value: 'toDecide', label: 'To decide' },
            { value: 'out', label: 'Out for decision' },
          ]}
        />
        {waiting.data && (
          <span className="muted" role="status">
            {total === 0 ? 'nothing waits' : `${total} ${total === 1 ? 'waits' : 'wait'}`}
          </span>
        )}
      </header>
      <Refusal error={waiting.error} />
      <div className={chosen === undefined ? 'approvals-body approvals-alone' : 'approvals-body'}>
        <div className="approvals-list">
          {waiting.isLoading && <Waiting lines={6} />}
          {waiting.data && items.length === 0 && <Nothing part={part} />}
          <Items
            items={items}
            now={waiting.dataUpdatedAt}
            part={part}
            chosen={isListed ? chosen : undefined}
            isTicked={isTicked}
            onChoose={choose}
            onTick={tick}
          />
          {waiting.hasNextPage && (
            <button type="button" className="quiet more" onClick={() => void waiting.fetchNextPage()}>
              More
            </button>
          )}
          {part === 'out' && (
            <>
              <Decided state="approved" chosen={chosen} onChoose={choose} />
              <Decided state="rejected" chosen={chosen} onChoose={choose} />
            </>
          )}
          {ticked.length > 0 && (
            <DecideMany items={ticked} onLeave={() => setTicked([])} onDone={() => choose(undefined)} />
          )}
        </div>
        {chosen !== undefined && <DecisionPane key={chosen} id={chosen} onDone={goOn} />}
      </div>
    </main>
  );
}

function Nothing({ part }: { part: Part }) {
  return (
    <p className="empty">
      {part === 'toDecide'
        ? 'Nothing waits for your decision.'
        : 'Nothing that you submitted or own waits for a decision.'}
    </p>
  );
}

interface ItemsProps {
  items: readonly Item[];
  now: number;
  part: Part;
  chosen: string | undefined;
  isTicked: (id: string) => boolean;
  onChoose: (id: string) => void;
  onTick: (id: string) => void;
}

/** What waits, the longest first, each with its age drawn. */
function Items({ items, now, part, chosen, isTicked, onChoose, onTick }: ItemsProps) {
  const shares = ageShares(
    items.map(({ at }) => at),
    now,
  );
  if (items.length === 0) return null;
  return (
    <ol className="approvals-items" aria-label={part === 'toDecide' ? 'To decide' : 'Out for decision'}>
      {items.map((item, place) => (
        <li key={item.document.id} className={item.document.id === chosen ? 'approvals-chosen' : ''}>
          {part === 'toDecide' && (
            <Checkbox
              aria-label={`Tick ${item.document.number}`}
              checked={isTicked(item.document.id)}
              onChange={() => onTick(item.document.id)}
            />
          )}
          <ItemButton item={item} isChosen={item.document.id === chosen} onChoose={onChoose}>
            <span className="approvals-age" title={`submitted ${fullTime(item.at)}`}>
              <span className="approvals-bar" aria-hidden="true">
                <span style={{ width: `${(shares[place] ?? 0) * 100}%` }} />
              </span>
              waits {ageWords(item.at, now)}
              {part === 'out' && ` for ${item.waitingFor.map(({ name }) => name).join(', ')}`}
            </span>
          </ItemButton>
        </li>
      ))}
    </ol>
  );
}

function ItemButton({
  item,
  isChosen,
  onChoose,
  children,
}: {
  item: Item;
  isChosen: boolean;
  onChoose: (id: string) => void;
  children: React.ReactNode;
}) {
  const place = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    if (isChosen) place.current?.scrollIntoView({ block: 'nearest' });
  }, [isChosen]);
  const { document, version, inForce, submittedBy, comment, at } = item;
  return (
    <button
      ref={place}
      type="button"
      className="approvals-item"
      aria-current={isChosen || undefined}
      onClick={() => onChoose(document.id)}
    >
      <span className="approvals-name">
        <span className="number doc-number">{document.number}</span> <bdi>{document.title}</bdi>
      </span>
      <span className="muted">
        <span className="number">{numberWords(version)}</span>
        {inForce ? (
          <>
            {' '}
            after <span className="number">{numberWords(inForce)}</span>
          </>
        ) : (
          ', the first'
        )}{' '}
        · {document.library.name} · {submittedBy.name}, {dayTime(at)}
      </span>
      {comment && (
        <span className="approvals-comment">
          “<bdi>{comment}</bdi>”
        </span>
      )}
      {children}
    </button>
  );
}
