import type { ApprovalList } from '@polychron/contract';
import { useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { useSearchParams } from 'react-router-dom';
import { Refusal } from '../../ui/Refusal.tsx';
import { Waiting } from '../../ui/Waiting.tsx';
import { DecideMany } from './DecideMany.tsx';
import { DecisionPane } from './DecisionPane.tsx';
import { Items } from './Items.tsx';
import { type List, useApprovals } from './useApprovals.ts';
import './approvals.css';

type Item = ApprovalList['items'][number];

/**
 * One list in three parts, over all libraries: what waits for one's decision, what waits for others', and
 * what came back to one, decided; beside it what changed, and the ways to decide.
 */
export function ApprovalsPage() {
  const [search, setSearch] = useSearchParams();
  const yours = useApprovals('toDecide', 'inApproval');
  const others = useApprovals('out', 'inApproval');
  const approved = useApprovals('out', 'approved');
  const rejected = useApprovals('out', 'rejected');
  const items = [yours, others, approved, rejected].flatMap((list) => list.items);
  // What was ticked stays in view with what became of it, also once it left the list.
  const [ticked, setTicked] = useState<readonly Item[]>([]);
  const chosen = search.get('document') ?? yours.items[0]?.document.id;
  const choose = (id: string | undefined): void => {
    const next = new URLSearchParams(search);
    if (id === undefined) next.delete('document');
    else next.set('document', id);
    setSearch(next, { replace: true });
  };
  const isTicked = (id: string): boolean => ticked.some(({ document }) => document.id === id);
  const tick = (id: string): void => {
    const item = yours.items.find(({ document }) => document.id === id);
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
      if (chosen) tick(chosen);
    },
    [chosen, ticked, items],
  );
  /** After a decision comes the next of the same part, or the one before where it was the last. */
  const goOn = (): void => {
    const { items: among } = [yours, others].find((list) => has(list, chosen)) ?? yours;
    const place = among.findIndex(({ document }) => document.id === chosen);
    const next = among[place + 1] ?? among[place - 1];
    setTicked(ticked.filter(({ document }) => document.id !== chosen));
    choose(next?.document.id);
  };
  const marks = { chosen, onChoose: choose };
  return (
    <main className="approvals">
      <header className="approvals-head">
        <h1>Approvals</h1>
      </header>
      <div className={chosen === undefined ? 'approvals-body approvals-alone' : 'approvals-body'}>
        <div className="approvals-list">
          <Part title="Your turn" lists={[yours]} none="Nothing waits for your decision.">
            <Items list={yours} {...marks} isTicked={isTicked} onTick={tick} />
            {ticked.length > 0 && (
              <DecideMany items={ticked} onLeave={() => setTicked([])} onDone={() => choose(undefined)} />
            )}
          </Part>
          <Part
            title="Others’ turn"
            lists={[others]}
            none="Nothing of yours waits for others. What you submit, or own, stands here meanwhile."
          >
            <Items list={others} {...marks} />
          </Part>
          <Part
            title="Back with you"
            lists={[approved, rejected]}
            none="Nothing came back. What was approved and is to be published, or was rejected, stands here."
          >
            <Items list={approved} {...marks} />
            <Items list={rejected} {...marks} />
          </Part>
        </div>
        {chosen !== undefined && <DecisionPane key={chosen} id={chosen} onDone={goOn} />}
      </div>
    </main>
  );
}

const has = (list: List, id: string | undefined): boolean =>
  list.items.some(({ document }) => document.id === id);

interface PartProps {
  title: string;
  lists: readonly List[];
  none: string;
  children: React.ReactNode;
}

/** One of the three parts: how many it has, or what would stand there. */
function Part({ title, lists, none, children }: PartProps) {
  const total = lists.reduce((sum, list) => sum + list.total, 0);
  const isRead = lists.every((list) => list.isRead);
  return (
    <section aria-label={title}>
      <h2>
        {title} {total > 0 && <small role="status">{total}</small>}
      </h2>
      {lists.map((list, place) => (
        <Refusal key={place} error={list.error} />
      ))}
      {!isRead && <Waiting lines={3} />}
      {isRead && total === 0 && <p className="empty">{none}</p>}
      {children}
    </section>
  );
}
