import type { Comparison } from '@polychron/contract';
import { useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { ChangeList } from './Changes.tsx';
import { ComparedText } from './ComparedText.tsx';
import './comparing.css';

interface Props {
  comparison: Comparison;
  sides: { older: string; newer: string };
  view: 'merged' | 'sideBySide';
  /** The address of a picture; of the older side where it is gone in the newer. */
  picture: (part: string, isGone?: boolean) => string;
}

/** Both versions with their changes, and the list of these to step through. */
export function Comparing({ comparison, sides, view, picture }: Props) {
  // The change stepped to belongs to one pair of versions; another pair begins at none.
  const pair = `${sides.older} ${sides.newer}`;
  const [stepped, setStepped] = useState<{ pair: string; id: number | null }>({ pair, id: null });
  const current = stepped.pair === pair ? stepped.id : null;
  const go = (id: number | null): void => setStepped({ pair, id });
  const count = comparison.changes.length;
  const step = (by: number): void => go(changeAfter(current, by, count));
  useHotkeys('n,alt+down', () => step(1), { preventDefault: true }, [count, current, pair]);
  useHotkeys('p,alt+up', () => step(-1), { preventDefault: true }, [count, current, pair]);
  return (
    <div className="compare-body">
      <ComparedText
        comparison={comparison}
        sides={sides}
        view={view}
        current={current}
        picture={picture}
        onGo={go}
      />
      <ChangeList changes={comparison.changes} current={current} onGo={go} onStep={step} />
    </div>
  );
}

/**
 * The change one comes to from another, or from none, by steps forth or back; after the last comes the first.
 */
function changeAfter(current: number | null, by: number, count: number): number | null {
  if (count === 0) return null;
  if (current === null) return by > 0 ? 1 : count;
  return ((current - 1 + by + count) % count) + 1;
}
