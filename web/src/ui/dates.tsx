import { DatePicker } from 'antd';
import dayjs, { type Dayjs } from 'dayjs';
import { type KeyboardEvent, useMemo } from 'react';
import { dateFormat, momentFormat } from './when.ts';
import './dates.css';

interface Props {
  /** What the field is for, for those who hear it. */
  name: string;
  value: string | null;
  /** Said in the empty field. */
  empty?: string;
  onChange: (value: string | null) => void;
}

// What people paste or type from elsewhere is read too (ISO 8601, calendar dates in the extended format).
const dateFormats = [dateFormat, 'YYYY-MM-DD'];
const momentFormats = [momentFormat, 'YYYY-MM-DDTHH:mm', 'YYYY-MM-DD HH:mm', dateFormat];

/** Enter takes the date that was typed; it does not send the form that the field is in. */
const takeOnly = (event: KeyboardEvent<HTMLElement>): void => {
  if (event.key === 'Enter') event.preventDefault();
};

/** The same object for the same value: with another one the field forgets what is being typed into it. */
const useDay = (value: string | null): Dayjs | null =>
  useMemo(() => (value === null ? null : dayjs(value)), [value]);

/** A calendar date, `YYYY-MM-DD`. */
export function DateField({ name, value, empty = '', onChange }: Props) {
  return (
    <DatePicker
      aria-label={name}
      onKeyDown={takeOnly}
      value={useDay(value)}
      format={dateFormats}
      placeholder={empty}
      onChange={(chosen) => onChange(chosen ? chosen.format('YYYY-MM-DD') : null)}
    />
  );
}

/** A moment as it is meant: of the past a day without a time is its end, as far as that has been. */
export function momentOf(chosen: Dayjs, past: boolean): Dayjs {
  const isDay = chosen.hour() === 0 && chosen.minute() === 0;
  if (!past || !isDay) return chosen;
  const [end, now] = [chosen.endOf('day'), dayjs()];
  return end.isAfter(now) ? now : end;
}

/** A moment in the viewer's zone, as an ISO 8601 instant; `past` where none to come is meant. */
export function MomentField({ name, value, empty = '', past = false, onChange }: Props & { past?: boolean }) {
  return (
    <DatePicker
      aria-label={name}
      onKeyDown={takeOnly}
      value={useDay(value)}
      format={momentFormats}
      showTime={{ format: 'HH:mm' }}
      needConfirm={false}
      {...(past ? { maxDate: dayjs() } : {})}
      placeholder={empty}
      onChange={(chosen) => onChange(chosen ? momentOf(chosen, past).toISOString() : null)}
    />
  );
}
