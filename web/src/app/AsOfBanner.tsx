import { ClockCounterClockwiseIcon } from '@phosphor-icons/react';
import { useLocation } from 'react-router-dom';
import { useLookAt } from '../parts/useLookAt.ts';
import { useLooking } from '../ui/looking.ts';
import { fullTime, moment } from '../ui/when.ts';
import './SeenAsBar.css';

/** Screens that show how things were. */
const looksBack = /^\/(in-force$|[A-Z][A-Z0-9]{0,9}($|\/(in-force|rulebook|documents\/)))/;
/** The screen that has its own moment; the others show how things are. */
const hasMoment = /\/as-of$/;

/** Says, over the whole frame, at which moment one looks, and offers the way back. */
export function AsOfBanner() {
  const at = useLooking((state) => state.at);
  const { pathname } = useLocation();
  const lookAt = useLookAt();
  if (at === null) return null;
  return (
    <div className="seen-as-banner" role="status">
      <ClockCounterClockwiseIcon size={17} weight="bold" />{' '}
      {looksBack.test(pathname) ? (
        <span>
          You see this as it was on <strong title={fullTime(at)}>{moment(at)}</strong>, as far as you saw it
          then and may see it now, and can only look.
        </span>
      ) : (
        <span>
          {hasMoment.test(pathname) ? 'Elsewhere' : 'This screen shows how things are now;'} libraries are
          shown as they were on <strong title={fullTime(at)}>{moment(at)}</strong>.
        </span>
      )}
      <button type="button" className="quiet" onClick={() => lookAt(null)}>
        Back to now
      </button>
    </div>
  );
}
