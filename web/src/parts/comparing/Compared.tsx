import type { Comparison } from '@polychron/contract';
import { Segmented } from 'antd';
import { useHotkeys } from 'react-hotkeys-hook';
import { Refusal } from '../../ui/Refusal.tsx';
import { PlaceInQueue } from '../PlaceInQueue.tsx';
import { Comparing } from './Comparing.tsx';

type View = 'merged' | 'sideBySide';

/** How both versions are shown: merged or side by side, chosen here or by `m`. */
export function ViewChoice({ view, onChange }: { view: View; onChange: (view: View) => void }) {
  useHotkeys('m', () => onChange(view === 'merged' ? 'sideBySide' : 'merged'), [view]);
  return (
    <Segmented<View>
      aria-label="View"
      value={view}
      onChange={onChange}
      options={[
        { value: 'merged', label: 'Merged' },
        { value: 'sideBySide', label: 'Side by side' },
      ]}
    />
  );
}

interface Props {
  /** Undefined while it is computed. */
  comparison: Comparison | undefined;
  error: unknown;
  sides: { older: string; newer: string };
  view: View;
  picture: (part: string, isGone?: boolean) => string;
}

/** A comparison, or that it is being computed, or why there is none. */
export function Compared({ comparison, error, ...shown }: Props) {
  if (comparison) return <Comparing comparison={comparison} {...shown} />;
  if (error) return <Refusal error={error} />;
  return (
    <>
      <div className="sheet sheet-waiting" aria-busy="true" />
      <PlaceInQueue />
    </>
  );
}
