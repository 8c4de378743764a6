import { numberWords } from '@polychron/core';
import { routes } from '@polychron/contract';
import { useInfiniteQuery } from '@tanstack/react-query';
import { Button } from 'antd';
import { useRef, useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router-dom';
import { ListForms } from '../../parts/listForms/ListForms.tsx';
import { calendarQuery, readRest } from '../../parts/queries.ts';
import { useLookAt } from '../../parts/useLookAt.ts';
import { useLibrary } from '../../parts/useLibrary.ts';
import { MomentField } from '../../ui/dates.tsx';
import { Nowhere } from '../../ui/Nowhere.tsx';
import { useLooking } from '../../ui/looking.ts';
import { Waiting } from '../../ui/Waiting.tsx';
import { date, fullTime, moment } from '../../ui/when.ts';
import { WhenSeen } from '../../ui/WhenSeen.tsx';
import { barsOf, reignAt, type Row, type Span, spanOf, ticksOf } from './calendar.ts';
import { DaysBetween } from './DaysBetween.tsx';
import { Plumb } from './Plumb.tsx';
import './asOf.css';

/** The moments where the lines stand, in milliseconds; the second line is left out at first. */
interface Lines {
  at: number;
  since: number | null;
}

/** The library on a calendar: what was in force when, at a plumb line, and what happened up to it. */
export function AsOfPage() {
  const library = useLibrary();
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const lookedAt = useLooking((state) => state.at);
  const lookAt = useLookAt();
  const [now] = useState(() => Date.now());
  const timeOf = (instant: string | null): number | null => {
    const time = instant === null ? NaN : Date.parse(instant);
    return Number.isNaN(time) ? null : Math.min(time, now);
  };
  // Where the lines stand; while one is moved the address and what happened wait.
  const [lines, setLines] = useState<Lines>(() => ({
    at: timeOf(search.get('at') ?? lookedAt) ?? now,
    since: timeOf(search.get('since')),
  }));
  const [settled, setSettled] = useState(lines);
  const frame = useRef<HTMLDivElement>(null);
  const list = useInfiniteQuery({ ...calendarQuery(library?.id ?? ''), enabled: Boolean(library) });
  if (library === null) return <Nowhere />;
  if (list.error) return <Nowhere error={list.error} />;
  if (!library || !list.data) return <Waiting lines={9} screen />;
  const rows = list.data.pages.flatMap((page) => page.items);
  const span = spanOf(rows, now);
  const { at, since } = lines;
  const settle = (moved: Partial<Lines>): void => {
    const next = { ...lines, ...moved };
    setLines(next);
    setSettled(next);
    const told = Object.entries(next).flatMap(([name, time]: [string, number | null]) =>
      time === null || time === now ? [] : [[name, new Date(time).toISOString()]],
    );
    setSearch(Object.fromEntries(told), { replace: true });
  };
  const instant = new Date(at).toISOString();
  const inForce = rows.flatMap((row) => reignAt(row, at) ?? []).length;
  return (
    <main className="as-of">
      <header className="as-of-head">
        <h1>
          {library.name}, as of{' '}
          <MomentField
            past
            name="As of"
            value={instant}
            onChange={(chosen) => settle({ at: timeOf(chosen) ?? now })}
          />
        </h1>
        <p className="as-of-since">
          What happened since{' '}
          <MomentField
            past
            name="Since"
            value={since === null ? null : new Date(since).toISOString()}
            empty="choose a day"
            onChange={(chosen) => settle({ since: timeOf(chosen) })}
          />
        </p>
        <nav className="acts no-print" aria-label="This moment">
          <Button
            onClick={() => {
              lookAt(instant);
              void navigate(`/${library.code}`);
            }}
          >
            Look at the Register then
          </Button>
          <ListForms
            route={routes.libraryInForce}
            params={{ id: library.id }}
            asOf={instant}
            name={`${library.code} in force ${instant.slice(0, 10)}`}
            readAll={() => readRest(list)}
          />
        </nav>
      </header>
      <p className="print-only">
        In force on {moment(instant)}: {inForce} of {rows.length} documents.
      </p>
      <div className="as-of-body">
        <section
          className="as-of-calendar"
          aria-label={`In force from ${date(new Date(span.from).toISOString())} until now`}
        >
          <CalendarHead span={span} />
          {rows.length === 0 && <p className="empty">Nothing here is for you to see yet.</p>}
          <ul>
            {rows.map((row) => (
              <CalendarRow key={row.document.id} row={row} span={span} at={at} code={library.code} />
            ))}
          </ul>
          {list.hasNextPage && (
            <WhenSeen onSeen={() => !list.isFetchingNextPage && void list.fetchNextPage()}>
              The next documents come as you read on.
            </WhenSeen>
          )}
          <div className="as-of-lines" ref={frame}>
            {since !== null && (
              <Plumb
                frame={frame}
                span={span}
                time={since}
                name="Since"
                kind="second"
                onMove={(time) => setLines({ ...lines, since: time })}
                onMoved={(time) => settle({ since: time })}
              />
            )}
            <Plumb
              frame={frame}
              span={span}
              time={at}
              name="As of"
              kind="first"
              onMove={(time) => setLines({ ...lines, at: time })}
              onMoved={(time) => settle({ at: time })}
            />
          </div>
        </section>
        {settled.since !== null && (
          <DaysBetween libraryId={library.id} code={library.code} times={[settled.since, settled.at]} />
        )}
      </div>
    </main>
  );
}

function CalendarHead({ span }: { span: Span }) {
  return (
    <div className="as-of-ruler" aria-hidden="true">
      {ticksOf(span).map(({ time, share, words, year }) => (
        <span key={time} className={year ? 'year' : ''} style={{ insetInlineStart: `${share * 100}%` }}>
          {words}
        </span>
      ))}
    </div>
  );
}

function CalendarRow({ row, span, at, code }: { row: Row; span: Span; at: number; code: string }) {
  const { id, number, title } = row.document;
  const reign = reignAt(row, at);
  return (
    <li>
      <Link to={`/${code}/documents/${id}`} title={title}>
        <span className="number doc-number">{number}</span>{' '}
        <span className="title" dir="auto">
          {title}
        </span>
      </Link>
      <span className="as-of-row" aria-hidden="true">
        {barsOf(row, span).map(({ versionId, from, until, version, left, width }) => (
          <span
            key={`${versionId} ${from}`}
            className={versionId === reign?.versionId && from === reign.from ? 'bar holds' : 'bar'}
            style={{ insetInlineStart: `${left * 100}%`, width: `${width * 100}%` }}
            title={`${numberWords(version)}: ${date(from)} to ${until === null ? 'now' : date(until)}`}
          >
            {width > 0.035 && <span className="number">{version}</span>}
          </span>
        ))}
      </span>
      <span className="as-of-holds">
        {reign ? (
          <>
            <span className="number">{numberWords(reign.version)}</span>{' '}
            <span className="muted" title={fullTime(reign.from)}>
              since {date(reign.from)}
            </span>
          </>
        ) : (
          <span className="muted">nothing in force</span>
        )}
      </span>
    </li>
  );
}
