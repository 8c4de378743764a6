import type { Custody } from '@polychron/contract';
import { Tooltip } from 'antd';
import { day, fullTime } from '../../ui/when.ts';
import './custody.css';

/** Who holds a document, written out: "M. Oduya · since Tue · to Fri". */
export function CustodySentence({ custody }: { custody: Custody }) {
  const until =
    custody.until &&
    (custody.overdue ? (
      <strong className="alarm">due {day(custody.until)}</strong>
    ) : (
      <>to {day(custody.until)}</>
    ));
  const reason = [
    custody.reason && `“${custody.reason}”`,
    `Since ${fullTime(custody.since)}`,
    custody.until && `until ${fullTime(custody.until)}`,
  ]
    .filter(Boolean)
    .join(' · ');
  return (
    <Tooltip title={reason} trigger={['hover', 'focus']}>
      <span tabIndex={0} role="note" className="custody">
        {custody.mine ? <strong>You</strong> : <span className="name">{custody.holder.name}</span>} · since{' '}
        {day(custody.since)}
        {until && <> · {until}</>}
      </span>
    </Tooltip>
  );
}
