import { numberWords } from '../../parts/versionNumber/numberWords.ts';
import { routes, type Comparison } from '@polychron/contract';
import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { Segmented, Select } from 'antd';
import { useEffect, useLayoutEffect, useRef, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { Link, useNavigate, useParams } from 'react-router-dom';
import { Nowhere } from '../../ui/Nowhere.tsx';
import { usePreferences } from '../../app/preferences.ts';
import { addressOf } from '../../ui/api.ts';
import { comparisonQuery, documentQuery, soFarQuery, versionsQuery } from '../../parts/queries.ts';
import { Blocks, type Showing } from '../../parts/reading/Blocks.tsx';
import { PlaceInQueue } from '../../parts/PlaceInQueue.tsx';
import { Refusal } from '../../ui/Refusal.tsx';
import { stateWords } from '../../parts/versionNumber/VersionNumber.tsx';
import './compare.css';

/**
 * What changed between two versions: merged or side by side, listed and stepped through. `soFar` compares the
 * holder's working copy with its base.
 */
export function ComparePage({ soFar = false }: { soFar?: boolean }) {
  const { code = '', id = '', from: given = '', to = soFar ? 'working copy' : '' } = useParams();
  const navigate = useNavigate();
  const { data: document, error } = useQuery(documentQuery(id));
  const { data: list } = useInfiniteQuery(versionsQuery(id));
  const versionsCompared = useQuery({ ...comparisonQuery(id, given, to), enabled: !soFar });
  const copyCompared = useQuery({ ...soFarQuery(id), enabled: soFar });
  const { data: comparison, error: refusal } = soFar ? copyCompared : versionsCompared;
  const from = soFar ? (comparison?.from ?? '') : given;
  const { compareView, setCompareView } = usePreferences();
  // The change stepped to belongs to one pair of versions; another pair begins at none.
  const pair = `${from} ${to}`;
  const [stepped, setStepped] = useState<{ pair: string; id: number | null }>({ pair, id: null });
  const current = stepped.pair === pair ? stepped.id : null;
  const setCurrent = (id: number | null): void => setStepped({ pair, id });
  const page = useRef<HTMLDivElement>(null);
  const versions = list?.pages.flatMap((each) => each.items) ?? [];
  const count = comparison?.changes.length ?? 0;
  const step = (by: number): void => setCurrent(changeAfter(current, by, count));
  useHotkeys('n,alt+down', () => step(1), { preventDefault: true }, [count, current, pair]);
  useHotkeys('p,alt+up', () => step(-1), { preventDefault: true }, [count, current, pair]);
  useHotkeys('m', () => setCompareView(compareView === 'merged' ? 'sideBySide' : 'merged'), [compareView]);
  useEffect(() => {
    if (current !== null)
      page.current
        ?.querySelector(`[data-change="${current}"]`)
        ?.scrollIntoView({ block: 'center', behavior: 'smooth' });
  }, [current, compareView]);

  if (error) return <Nowhere error={error} />;
  const choices = versions.map((version) => ({
    value: version.label,
    label: `${numberWords(version.label)} · ${stateWords(version)} · ${version.comment}`,
  }));
  const go = (a: string, b: string): void =>
    void navigate(`/${code}/documents/${id}/compare/${encodeURIComponent(a)}/${encodeURIComponent(b)}`, {
      replace: true,
    });
  const picture = (part: string, isGone = false): string =>
    addressOf(routes.versionPicture, { params: { id, v: soFar || isGone ? from : to, part } });
  return (
    <main className="compare">
      <header className="document-head">
        <span className="number doc-number">{document?.number}</span>
        <h1>
          <Link to={`/${code}/documents/${id}`}>{document?.title}</Link>
        </h1>
      </header>
      <div className="compare-bar">
        {soFar ? (
          <span>
            your working copy against <span className="number">{numberWords(from)}</span>, not checked in
          </span>
        ) : (
          <>
            <span>from</span>
            <Select
              aria-label="Older version"
              value={from}
              options={choices}
              labelRender={({ value }) => <span className="number">{numberWords(String(value))}</span>}
              popupMatchSelectWidth={420}
              onChange={(value: string) => go(value, to)}
            />
            <span>to</span>
            <Select
              aria-label="Newer version"
              value={to}
              options={choices}
              labelRender={({ value }) => <span className="number">{numberWords(String(value))}</span>}
              popupMatchSelectWidth={420}
              onChange={(value: string) => go(from, value)}
            />
            <button type="button" className="quiet" onClick={() => go(to, from)}>
              swap
            </button>
          </>
        )}
        {comparison && <Counts counts={comparison.counts} total={count} />}
        <span className="top-gap" />
        <Segmented
          aria-label="View"
          value={compareView}
          onChange={(value) => setCompareView(value as typeof compareView)}
          options={[
            { value: 'merged', label: 'Merged' },
            { value: 'sideBySide', label: 'Side by side' },
          ]}
        />
      </div>
      {refusal && <Refusal error={refusal} />}
      {!comparison && !refusal && (
        <>
          <div className="sheet sheet-waiting" aria-busy="true" />
          <PlaceInQueue />
        </>
      )}
      {comparison && (
        <div className="compare-body">
          <div
            className="compare-page"
            ref={page}
            tabIndex={0}
            role="region"
            aria-label="Text with its changes"
          >
            <Unchanged parts={comparison.parts} />
            {!comparison.isShortest && (
              <p className="unchanged">
                The versions have little in common: a shorter list of changes may exist.
              </p>
            )}
            {comparison.parts
              .filter((part) => part.where === 'body' || differs(part))
              .map((part) => (
                <section key={`${part.where} ${part.label}`} className={`part part-${part.where}`}>
                  {part.where !== 'body' && <h2 className="part-label">{part.label}</h2>}
                  {compareView === 'merged' || part.where === 'field' ? (
                    <div className="sheet">
                      <Blocks blocks={part.blocks} showing={{ picture, sides: 'both', change: current }} />
                    </div>
                  ) : (
                    <SideBySide part={part} showing={{ picture, change: current }} from={from} to={to} />
                  )}
                </section>
              ))}
          </div>
          <Overview page={page} comparison={comparison} view={compareView} onGo={setCurrent} />
          <ChangeList comparison={comparison} current={current} onGo={setCurrent} onStep={step} />
        </div>
      )}
    </main>
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

const differs = (part: Comparison['parts'][number]): boolean =>
  part.blocks.some((block) => block.status !== 'same');

/** Headers, footers and notes that are the same take a line, not a page. */
function Unchanged({ parts }: { parts: Comparison['parts'] }) {
  const same = parts
    .filter((part) => part.where !== 'body' && !differs(part))
    .map((part) => part.label.toLowerCase());
  return same.length > 0 && <p className="unchanged">Unchanged: {same.join('; ')}.</p>;
}

/** Blocks facing each other: a row a block, so that both sides stay level. */
function SideBySide({
  part,
  showing,
  from,
  to,
}: {
  part: Comparison['parts'][number];
  showing: Omit<Showing, 'sides'>;
  from: string;
  to: string;
}) {
  return (
    <div className="sheet side-by-side">
      <div className="side-head number">{numberWords(from)}</div>
      <div className="side-head number">{numberWords(to)}</div>
      {part.blocks.map((block, index) => (
        <div key={index} className="side-row">
          <div>
            <Blocks blocks={[block]} showing={{ ...showing, sides: 'older' }} />
          </div>
          <div>
            <Blocks blocks={[block]} showing={{ ...showing, sides: 'newer' }} />
          </div>
        </div>
      ))}
    </div>
  );
}

const kinds = {
  inserted: 'new',
  deleted: 'gone',
  changed: 'changed',
  moved: 'moved',
  restyled: 'restyled',
} as const;

function Counts({ counts, total }: { counts: Comparison['counts']; total: number }) {
  if (total === 0)
    return <span className="counts">No difference in text, tables, headers, footers or fields.</span>;
  const parts = (Object.keys(kinds) as (keyof typeof kinds)[])
    .filter((kind) => counts[kind] > 0)
    .map((kind) => `${counts[kind]} ${kinds[kind]}`);
  return (
    <span className="counts">
      <strong>
        {total} {total === 1 ? 'change' : 'changes'}
      </strong>
      : {parts.join(', ')} · {counts.wordsDeleted} {counts.wordsDeleted === 1 ? 'word' : 'words'} out,{' '}
      {counts.wordsInserted} in
    </span>
  );
}

/** What a change is: "new table row", "header, paragraph changed". */
function wordsOf({ where, what, kind }: Comparison['changes'][number]): string {
  const place = where === 'body' || where === 'field' ? '' : `${where}, `;
  return kind === 'inserted' ? `${place}new ${what}` : `${place}${what} ${kinds[kind]}`;
}

function ChangeList({
  comparison,
  current,
  onGo,
  onStep,
}: {
  comparison: Comparison;
  current: number | null;
  onGo: (id: number) => void;
  onStep: (by: number) => void;
}) {
  return (
    <aside className="changes" aria-label="Changes">
      <div className="changes-head">
        <h2>Changes</h2>
        <span className="acts">
          <button type="button" className="quiet" onClick={() => onStep(-1)}>
            previous <kbd>Alt ↑</kbd>
          </button>
          <button type="button" className="quiet" onClick={() => onStep(1)}>
            next <kbd>Alt ↓</kbd>
          </button>
        </span>
      </div>
      <ol>
        {comparison.changes.map((change) => (
          <li key={change.id}>
            <button
              type="button"
              className={change.id === current ? 'change change-current' : 'change'}
              aria-current={change.id === current || undefined}
              onClick={() => onGo(change.id)}
            >
              <span className="change-what">{wordsOf(change)}</span>
              {change.place && <span className="change-place">{change.place}</span>}
              {change.kind === 'restyled' || change.kind === 'moved' ? (
                <span>{change.after}</span>
              ) : (
                <>
                  {change.before && <del>{change.before}</del>} {change.after && <ins>{change.after}</ins>}
                </>
              )}
              {change.how && <span className="change-how">{change.how}</span>}
            </button>
          </li>
        ))}
      </ol>
    </aside>
  );
}

/** A strip beside the page with a mark for each change, at its height in the whole text. */
function Overview({
  page,
  comparison,
  view,
  onGo,
}: {
  page: React.RefObject<HTMLDivElement | null>;
  comparison: Comparison;
  view: string;
  onGo: (id: number) => void;
}) {
  const [marks, setMarks] = useState<{ id: number; share: number }[]>([]);
  useLayoutEffect(() => {
    const frame = page.current;
    if (!frame) return undefined;
    const measure = (): void => {
      const top = frame.getBoundingClientRect().top - frame.scrollTop;
      const height = Math.max(1, frame.scrollHeight);
      setMarks(
        comparison.changes.flatMap(({ id }) => {
          const target = frame.querySelector(`[data-change="${id}"]`);
          return target ? [{ id, share: (target.getBoundingClientRect().top - top) / height }] : [];
        }),
      );
    };
    const observer = new ResizeObserver(measure);
    observer.observe(frame);
    measure();
    return () => observer.disconnect();
  }, [page, comparison, view]);
  return (
    <div className="overview" aria-hidden="true">
      {marks.map((mark) => (
        <button
          key={mark.id}
          type="button"
          tabIndex={-1}
          className={`mark-${comparison.changes[mark.id - 1]?.kind ?? 'changed'}`}
          style={{ top: `${mark.share * 100}%` }}
          onClick={() => onGo(mark.id)}
        />
      ))}
    </div>
  );
}
