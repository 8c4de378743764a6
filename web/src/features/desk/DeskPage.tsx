import { nearlyFull, numberWords, reviewState } from '@polychron/core';
import type { Desk, DeskFile, Document } from '@polychron/contract';
import { useQuery } from '@tanstack/react-query';
import { type ReactNode, useLayoutEffect, useRef, useState } from 'react';
import { Link } from 'react-router-dom';
import { Nowhere } from '../../ui/Nowhere.tsx';
import { ApprovalActs } from '../../parts/approval/ApprovalActs.tsx';
import { CustodyActs } from '../../parts/custody/CustodyActs.tsx';
import { Finishing } from '../../parts/custody/Finishing.tsx';
import { landingOf } from '../../parts/checkIn/landing.ts';
import { useFileDrop } from '../../parts/drop/useFileDrop.ts';
import { deskQuery, documentQuery, sessionQuery } from '../../parts/queries.ts';
import { ReviewActs } from '../../parts/review/ReviewActs.tsx';
import { Strand } from '../../parts/strand/Strand.tsx';
import { useCheckOut } from '../../parts/custody/useCheckOut.ts';
import type { HouseWord } from '../../ui/glossary.ts';
import { Waiting } from '../../ui/Waiting.tsx';
import { Word } from '../../ui/Word.tsx';
import { bytes, date, day, dayTime, fullTime, saves } from '../../ui/when.ts';
import { UnfinishedList } from '../../parts/unfinished/UnfinishedList.tsx';
import { useUnfinishedForms } from '../../ui/unfinished.ts';
import { Arrivals } from './Arrivals.tsx';
import { FileActs } from './FileActs.tsx';
import { Notices } from './Notices.tsx';
import { type Ruler, rulerOver } from './ruler.ts';
import { useArrivals } from './useArrivals.ts';
import './desk.css';

/**
 * One person's page: what they hold, what waits for them, what came back, files of their own, on one ruler of
 * time.
 */
export function DeskPage() {
  const { data: session } = useQuery(sessionQuery);
  const { data: desk, error, dataUpdatedAt: now } = useQuery(deskQuery);
  const [opened, setOpened] = useState<string | null>(null);
  const [place, width] = useWidth();
  const arriving = useArrivals();
  const drop = useFileDrop(arriving.take);
  if (error) return <Nowhere error={error} />;
  if (!desk) return <Waiting lines={9} screen />;
  const ruler = rulerOver(momentsOf(desk), now, width);
  const row = (key: string) => ({
    opened: opened === key,
    onOpen: () => setOpened(opened === key ? null : key),
  });
  const files = (kind: DeskFile['kind']): DeskFile[] => desk.files.filter((file) => file.kind === kind);
  const empty = Object.values({ ...desk.totals, notices: 0 }).every((count) => count === 0);
  return (
    <main className={drop.over ? 'desk files-over' : 'desk'} {...drop.handlers}>
      <header className="desk-head">
        <h1>
          <Word of="Desk" /> of {session?.name}
        </h1>
        <Arrivals {...arriving} />
      </header>
      <Unfinished />
      {desk.bytes > desk.allowanceBytes * nearlyFull && (
        <p className="desk-room" role="status">
          Your Desk keeps {bytes(desk.bytes)} of the {bytes(desk.allowanceBytes)} it may, with the saves of
          what you hold.
        </p>
      )}
      <div className="desk-body">
        <div className="desk-list">
          <div className={empty ? 'unseen' : 'desk-row desk-ruler'} aria-hidden="true">
            <span />
            <span ref={place} className="desk-time">
              <RulerMarks ruler={ruler} />
            </span>
          </div>
          {empty && (
            <p className="empty">
              Nothing to do: you hold nothing and nothing waits for you. The <Link to="/">Register</Link> has
              the documents.
            </p>
          )}
          <Group title="You hold" count={desk.totals.held} shown={desk.held.length}>
            {desk.held.map((document) => (
              <Held key={document.id} document={document} ruler={ruler} {...row(document.id)} />
            ))}
          </Group>
          <Group title="Your turn to decide" count={desk.totals.decisions} shown={desk.decisions.length}>
            {desk.decisions.map((waiting) => (
              <Decision
                key={waiting.document.id}
                waiting={waiting}
                ruler={ruler}
                {...row(waiting.document.id)}
              />
            ))}
          </Group>
          <Group
            title="Others’ turn to decide"
            count={desk.totals.outForDecision}
            shown={desk.outForDecision.length}
          >
            {desk.outForDecision.map((out) => (
              <Row
                key={out.document.id}
                document={out.document}
                ruler={ruler}
                line={
                  <>
                    you submitted <span className="number">{out.label}</span> {dayTime(out.at)} · waits for{' '}
                    {out.waitingFor.map(({ name }) => name).join(', ')}
                  </>
                }
                drawing={<Post ruler={ruler} at={out.at} />}
                acts={<Link to={addressOf(out.document)}>Look at it</Link>}
              />
            ))}
          </Group>
          <Group title="Back with you" count={desk.totals.cameBack} shown={desk.cameBack.length}>
            {desk.cameBack.map((back) => (
              <Row
                key={back.document.id}
                document={back.document}
                ruler={ruler}
                line={
                  <>
                    {back.by.name} rejected <span className="number">{back.label}</span> {day(back.at)}: “
                    {back.comment}”
                  </>
                }
                drawing={<LooseEnd ruler={ruler} at={back.at} />}
                acts={<Link to={addressOf(back.document)}>Look at it</Link>}
              />
            ))}
          </Group>
          <Group title="To read" count={desk.totals.toRead} shown={desk.toRead.length}>
            {desk.toRead.map(({ document, version, since }) => (
              <Row
                key={document.id}
                document={document}
                ruler={ruler}
                line={
                  <>
                    <span className="number">{numberWords(version)}</span> is in force; you are asked to read
                    it since {day(since)}
                  </>
                }
                drawing={<Post ruler={ruler} at={since} />}
                acts={<Link to={`${addressOf(document)}/read`}>Read it</Link>}
              />
            ))}
          </Group>
          <Group title="To be reviewed" count={desk.totals.reviews} shown={desk.reviews.length}>
            {desk.reviews.map(({ document, reviewBy }) => (
              <Review
                key={document.id}
                document={document}
                reviewBy={reviewBy}
                ruler={ruler}
                {...row(`review ${document.id}`)}
              />
            ))}
          </Group>
          <Group title="Set aside" word="Set aside" count={files('setAside').length}>
            {files('setAside').map((file) => (
              <FileRow
                key={file.id}
                file={file}
                ruler={ruler}
                line={
                  <>
                    taken from <span className="number">{file.base}</span>;{' '}
                    {file.latest === file.base ? (
                      'nothing has been checked in since'
                    ) : (
                      <>
                        the latest is <span className="number">{file.latest}</span>
                      </>
                    )}{' '}
                    · {file.by?.name} lifted it: “<bdi>{file.reason}</bdi>”
                  </>
                }
              />
            ))}
          </Group>
          <Group title="Not registered yet" word="Arrival" count={files('arrival').length}>
            {files('arrival').map((file) => (
              <FileRow
                key={file.id}
                file={file}
                ruler={ruler}
                line={
                  <>
                    {bytes(file.size)}, arrived {dayTime(file.createdAt)}
                    {file.meantFor && (
                      <>
                        {' '}
                        · for {file.meantFor.library.name}
                        {file.meantFor.missing.length > 0 && <>, needs {file.meantFor.missing.join(', ')}</>}
                      </>
                    )}
                    {file.document && (
                      <>
                        {' '}
                        · taken from {file.document.number} <span className="number">{file.base}</span>
                        {file.latest !== file.base && (
                          <>
                            , the latest is <span className="number">{file.latest}</span>
                          </>
                        )}
                      </>
                    )}
                  </>
                }
              />
            ))}
          </Group>
          <Group title="Private copies" word="Private copy" count={files('looseCopy').length}>
            {files('looseCopy').map((file) => (
              <FileRow
                key={file.id}
                file={file}
                ruler={ruler}
                line={
                  <>
                    copy of <span className="number">{file.base}</span>, written {dayTime(file.changedAt)} ·
                    no versions; each save overwrites the last
                  </>
                }
              />
            ))}
          </Group>
          {desk.totals.files > desk.files.length && (
            <p className="muted">
              {desk.totals.files - desk.files.length} more files: bring some in, or throw some away, to see
              them.
            </p>
          )}
        </div>
        <Notices />
      </div>
    </main>
  );
}

const time = (instant: string): number => new Date(instant).getTime();
const momentsOf = (desk: Desk): number[] => [
  ...desk.held.flatMap(({ custody }) =>
    custody ? [time(custody.since), ...(custody.until ? [time(custody.until)] : [])] : [],
  ),
  ...desk.decisions.map(({ at }) => time(at)),
  ...desk.outForDecision.map(({ at }) => time(at)),
  ...desk.cameBack.map(({ at }) => time(at)),
  ...desk.toRead.map(({ since }) => time(since)),
  ...desk.reviews.map(({ reviewBy }) => time(reviewBy)),
  ...desk.files.map(({ createdAt }) => time(createdAt)),
];
const addressOf = (document: { id: string; library: { code: string } }): string =>
  `/${document.library.code}/documents/${document.id}`;

function useWidth(): [React.RefObject<HTMLSpanElement | null>, number] {
  const place = useRef<HTMLSpanElement>(null);
  const [width, setWidth] = useState(420);
  useLayoutEffect(() => {
    if (!place.current) return undefined;
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setWidth(Math.max(160, Math.round(entry.contentRect.width)));
    });
    observer.observe(place.current);
    return () => observer.disconnect();
  });
  return [place, width];
}

function Group({
  title,
  word,
  count,
  shown = count,
  children,
}: {
  title: string;
  /** The word of the house it is about. */
  word?: HouseWord;
  count: number;
  shown?: number;
  children: ReactNode;
}) {
  if (count === 0) return null;
  return (
    <section className="desk-group" aria-label={title}>
      <h2>
        {word ? <Word of={word}>{title}</Word> : title}{' '}
        <small>{shown < count ? `${shown} of ${count}` : count}</small>
      </h2>
      {children}
    </section>
  );
}

interface RowProps {
  document: { id: string; number: string; title: string; library: { code: string; name: string } } | null;
  /** The file's name, where no document names the row. */
  file?: string | undefined;
  line: ReactNode;
  drawing: ReactNode;
  acts: ReactNode;
  ruler: Ruler;
  children?: ReactNode;
}

/** What it is, when it was and is due, what can be done with it; whatever is opened lies below. */
function Row({ document, file, line, drawing, acts, ruler, children }: RowProps) {
  return (
    <article className="desk-row" aria-label={document ? `${document.number} ${document.title}` : file}>
      <div className="desk-what">
        <p className="desk-name">
          {document && (
            <>
              <span className="number doc-number">{document.number}</span>{' '}
              <Link to={addressOf(document)} className="title">
                <bdi>{document.title}</bdi>
              </Link>
            </>
          )}
          {!document && <strong>{file}</strong>}
        </p>
        <p className="desk-line">{line}</p>
      </div>
      <svg className="desk-time" width={ruler.width} height={46} role="presentation">
        <path className="desk-now" d={`M${ruler.now} 0V46`} />
        {drawing}
      </svg>
      <div className="acts desk-acts">{acts}</div>
      {children && <div className="desk-open">{children}</div>}
    </article>
  );
}

function RulerMarks({ ruler }: { ruler: Ruler }) {
  return (
    <svg width={ruler.width} height={34}>
      {ruler.ticks.map((tick) => (
        <g key={tick.x}>
          <path className="desk-tick" d={`M${tick.x} 28v6`} />
          <text x={tick.x} y={22} textAnchor="middle">
            {Math.abs(tick.x - ruler.now) < 36 ? '' : tick.label}
          </text>
        </g>
      ))}
      <path className="desk-now" d={`M${ruler.now} 26V34`} />
      <text className="desk-now-label" x={ruler.now} y={22} textAnchor="middle">
        now
      </text>
    </svg>
  );
}

interface Opening {
  ruler: Ruler;
  opened: boolean;
  onOpen: () => void;
}

/** A document that is to be reviewed: a mark at its date. */
function Review({ document, reviewBy, ruler, opened, onOpen }: Desk['reviews'][number] & Opening) {
  const { data: whole } = useQuery({ ...documentQuery(document.id), enabled: opened });
  const passed = reviewState(reviewBy, new Date()) === 'passed';
  return (
    <Row
      document={document}
      ruler={ruler}
      line={
        <span className={passed ? 'overdue' : ''}>
          {passed ? 'was to be reviewed by' : 'to be reviewed by'} {date(reviewBy)}
        </span>
      }
      drawing={<path className="desk-due" d={`M${ruler.x(time(reviewBy))} 12V34`} />}
      acts={
        <button type="button" className="quiet" aria-expanded={opened} onClick={onOpen}>
          Review it
        </button>
      }
    >
      {opened && whole && <ReviewActs document={whole} />}
    </Row>
  );
}

/** A document one holds: a thread from its beginning to now, dotted on to its due mark, saves as a bead. */
function Held({ document, ruler, opened, onOpen }: { document: Document } & Opening) {
  const { custody } = document;
  const { checkOut, busy } = useCheckOut();
  if (!custody) return null;
  const since = ruler.x(time(custody.since));
  const due = custody.until === null ? null : ruler.x(time(custody.until));
  return (
    <Row
      document={document}
      ruler={ruler}
      line={
        <>
          {custody.saves === 0
            ? 'nothing saved yet'
            : `${saves(custody.saves)}, the last ${custody.lastSavedAt ? dayTime(custody.lastSavedAt) : ''}`}{' '}
          · since {day(custody.since)}
          {custody.until && (
            <>
              {' '}
              ·{' '}
              {custody.overdue ? (
                <strong className="alarm">due {day(custody.until)}</strong>
              ) : (
                <>to {day(custody.until)}</>
              )}
            </>
          )}
          {custody.openUntil && ' · open in a program'}
          {custody.reason && (
            <>
              {' '}
              · “<bdi>{custody.reason}</bdi>”
            </>
          )}
        </>
      }
      drawing={
        <g className={custody.overdue ? 'desk-thread desk-overdue' : 'desk-thread'}>
          <title>{`Held since ${fullTime(custody.since)}${custody.until ? `, to ${fullTime(custody.until)}` : ''}`}</title>
          <path
            d={`M${since} 23C${(since + ruler.now) / 2} 34 ${(since + ruler.now) / 2} 34 ${ruler.now} 23`}
          />
          <circle className="desk-knot" cx={since} cy={23} r={4} />
          {custody.lastSavedAt && (
            <circle className="desk-bead" cx={ruler.x(time(custody.lastSavedAt))} cy={23} r={3} />
          )}
          <circle className="desk-ring" cx={ruler.now} cy={23} r={7} />
          {due !== null && (
            <>
              <path
                className="desk-to-due"
                d={`M${due > ruler.now ? ruler.now + 7 : ruler.now - 7} 23H${due}`}
              />
              <path d={`M${due} 14v18`} />
            </>
          )}
        </g>
      }
      acts={
        <button type="button" className="quiet" aria-expanded={opened} onClick={onOpen}>
          {opened ? 'Roll up' : 'Work on it'}
        </button>
      }
    >
      <Finishing document={document} custody={custody} />
      {opened && (
        <div className="desk-work">
          <Strand document={document} versions={document.strand} size="large" landing={landingOf(document)} />
          <CustodyActs
            document={document}
            finishing={false}
            onCheckOut={() => void checkOut(document)}
            busy={busy === document.id}
          />
        </div>
      )}
    </Row>
  );
}

/** A decision that waits: a post where it was asked for, its age up to now. */
function Decision({ waiting, ruler, opened, onOpen }: { waiting: Desk['decisions'][number] } & Opening) {
  return (
    <Row
      document={waiting.document}
      ruler={ruler}
      line={
        <>
          <span className="number">{waiting.label}</span> asked by {waiting.submittedBy.name}{' '}
          {dayTime(waiting.at)}
          {waiting.comment && (
            <>
              : “<bdi>{waiting.comment}</bdi>”
            </>
          )}
        </>
      }
      drawing={<Post ruler={ruler} at={waiting.at} />}
      acts={
        <>
          <Link to={addressOf(waiting.document)}>Look at it</Link>
          <button type="button" className="quiet" aria-expanded={opened} onClick={onOpen}>
            {opened ? 'Roll up' : 'Decide'}
          </button>
        </>
      }
    >
      {opened && <Deciding id={waiting.document.id} />}
    </Row>
  );
}

function Deciding({ id }: { id: string }) {
  const { data: document, error } = useQuery(documentQuery(id));
  if (error) return <Nowhere error={error} />;
  return document?.approval ? <ApprovalActs document={document} /> : null;
}

/** A post where a decision was asked for, its age up to now. */
function Post({ ruler, at }: { ruler: Ruler; at: string }) {
  const x = ruler.x(time(at));
  return (
    <g className="desk-post">
      <title>{`Asked ${fullTime(at)}`}</title>
      <path d={`M${x} 10v26`} />
      <path className="desk-age" d={`M${x} 23H${ruler.now}`} />
    </g>
  );
}

function LooseEnd({ ruler, at }: { ruler: Ruler; at: string }) {
  const x = ruler.x(time(at));
  return (
    <g className="desk-loose">
      <title>{fullTime(at)}</title>
      <path d={`M${Math.max(4, x - 46)} 12C${x - 12} 12 ${x - 4} 16 ${x} 24c3 8 -6 10 -4 16`} />
      <circle cx={x} cy={24} r={3} />
    </g>
  );
}

function FileRow({ file, ruler, line }: { file: DeskFile; ruler: Ruler; line: ReactNode }) {
  const at = file.kind === 'looseCopy' ? file.changedAt : file.createdAt;
  return (
    <Row
      document={file.kind === 'arrival' ? null : file.document}
      file={file.fileName}
      ruler={ruler}
      line={line}
      drawing={
        file.kind === 'setAside' ? (
          <LooseEnd ruler={ruler} at={at} />
        ) : (
          <g className="desk-file">
            <title>{fullTime(at)}</title>
            <circle cx={ruler.x(time(at))} cy={23} r={4} />
          </g>
        )
      }
      acts={<FileActs file={file} />}
    />
  );
}

/** Forms that were begun and not sent, on whatever page. */
function Unfinished() {
  const { forms } = useUnfinishedForms();
  if (forms.size === 0) return null;
  return (
    <section className="desk-unfinished" aria-label="Unfinished">
      <h2>
        Unfinished <small>{forms.size}</small>
      </h2>
      <UnfinishedList forms={[...forms.values()]} at="/desk" />
    </section>
  );
}
