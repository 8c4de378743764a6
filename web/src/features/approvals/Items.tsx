import { numberWords } from '@polychron/core';
import type { ApprovalList } from '@polychron/contract';
import { Checkbox } from 'antd';
import { useEffect, useRef } from 'react';
import { decidedPosts } from '../../parts/approval/decidedWords.ts';
import { dayTime, fullTime } from '../../ui/when.ts';
import { ageShares, ageWords } from './age.ts';
import type { List } from './useApprovals.ts';

type Item = ApprovalList['items'][number];

interface Props {
  list: List;
  chosen: string | undefined;
  onChoose: (id: string) => void;
  /** Where several can be decided together. */
  isTicked?: (id: string) => boolean;
  onTick?: (id: string) => void;
}

/** What waits, the longest first, each with its age drawn; of what was decided who said what. */
export function Items({ list, chosen, onChoose, isTicked, onTick }: Props) {
  const { items, readAt, more } = list;
  const shares = ageShares(
    items.map(({ at }) => at),
    readAt,
  );
  if (items.length === 0) return null;
  return (
    <>
      <ol className="approvals-items">
        {items.map((item, place) => (
          <li key={item.document.id} className={item.document.id === chosen ? 'approvals-chosen' : ''}>
            {isTicked && onTick && (
              <Checkbox
                aria-label={`Tick ${item.document.number}`}
                checked={isTicked(item.document.id)}
                onChange={() => onTick(item.document.id)}
              />
            )}
            <ItemButton item={item} isChosen={item.document.id === chosen} onChoose={onChoose}>
              {item.state === 'inApproval' ? (
                <Age item={item} share={shares[place] ?? 0} now={readAt} isMine={onTick !== undefined} />
              ) : (
                <Outcome item={item} />
              )}
            </ItemButton>
          </li>
        ))}
      </ol>
      {more && (
        <button type="button" className="quiet more" onClick={more}>
          More
        </button>
      )}
    </>
  );
}

/** How long it waits, and for whom else. */
function Age({ item, share, now, isMine }: { item: Item; share: number; now: number; isMine: boolean }) {
  return (
    <span className="approvals-age" title={`submitted ${fullTime(item.at)}`}>
      <span className="approvals-bar" aria-hidden="true">
        <span style={{ width: `${share * 100}%` }} />
      </span>
      waits {ageWords(item.at, now)}
      {!isMine && ` for ${item.waitingFor.map(({ name }) => name).join(', ')}`}
    </span>
  );
}

function Outcome({ item: { state, posts } }: { item: Item }) {
  return (
    <>
      <span className="approvals-outcome">
        {state === 'approved' ? 'approved, to be published' : 'rejected'}
      </span>
      {decidedPosts(posts).map((words) => (
        <span key={words} className="approvals-comment">
          {words}
        </span>
      ))}
    </>
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
