import { EyeIcon } from '@phosphor-icons/react';
import { useLooking } from '../ui/looking.ts';
import { useLook } from './useLook.ts';
import './SeenAsBar.css';

/** Says, over the whole frame, as whom one sees it, and offers the way back. */
export function SeenAsBanner() {
  const { as, name } = useLooking();
  const look = useLook();
  if (as === null) return null;
  return (
    <div className="seen-as-banner" role="status">
      <EyeIcon size={17} weight="bold" />{' '}
      <span>
        You see this as <strong>{name}</strong> would, and can only look.
      </span>
      <button type="button" className="quiet" onClick={() => look(null)}>
        Back to me
      </button>
    </div>
  );
}
