import dayjs, { type ManipulateType } from 'dayjs';
import { Link } from 'react-router-dom';
import { MomentField } from '../ui/dates.tsx';

interface Props {
  at: string | null;
  code: string | undefined;
  onChoose: (at: string | null) => void;
  onLeave: () => void;
}

const usual: readonly [words: string, count: number, unit: ManipulateType][] = [
  ['Yesterday', 1, 'day'],
  ['A week ago', 1, 'week'],
  ['A month ago', 1, 'month'],
  ['A year ago', 1, 'year'],
];

/** Chooses an earlier moment to look at. */
export function AsOfMoments({ at, code, onChoose, onLeave }: Props) {
  return (
    <div className="as-of-moments">
      <MomentField past name="As of" value={at} empty="Day and time" onChange={onChoose} />
      <ul>
        {usual.map(([words, count, unit]) => (
          <li key={words}>
            <button
              type="button"
              className="quiet"
              onClick={() => onChoose(dayjs().subtract(count, unit).toISOString())}
            >
              {words}
            </button>
          </li>
        ))}
      </ul>
      {at !== null && (
        <button type="button" className="quiet" onClick={() => onChoose(null)}>
          Back to now
        </button>
      )}
      {code !== undefined && (
        <Link to={`/${code}/as-of`} onClick={onLeave}>
          The library on a calendar
        </Link>
      )}
    </div>
  );
}
