import { numberWords } from '@polychron/core';
import { routes, type ShelfItem } from '@polychron/contract';
import { useInfiniteQuery, useQueryClient } from '@tanstack/react-query';
import dayjs from 'dayjs';
import { type ReactNode, useState } from 'react';
import { Link, useSearchParams } from 'react-router-dom';
import { Button } from 'antd';
import { Nowhere } from '../../ui/Nowhere.tsx';
import { useLibrary } from '../../parts/useLibrary.ts';
import { call } from '../../ui/api.ts';
import { Consequences } from '../../ui/Consequences.tsx';
import { refreshDocument, shelfQuery } from '../../parts/queries.ts';
import { bytes, date, fullTime } from '../../ui/when.ts';
import { Waiting } from '../../ui/Waiting.tsx';
import { Word } from '../../ui/Word.tsx';
import { useMessages } from '../../ui/messages.tsx';
import { type Group, groupsOf } from './groups.ts';
import { RecoverAll } from './RecoverAll.tsx';
import './shelf.css';
import { aboutDocument } from '../../parts/unfinished/about.ts';
import { useUnfinished } from '../../ui/unfinished.ts';

/** Thinned content that can still be recovered, the soonest to go first, each with its clock. */
export function ShelfPage() {
  const library = useLibrary();
  const [search, setSearch] = useSearchParams();
  const revision = search.has('revision') ? Number(search.get('revision')) : null;
  const pages = useInfiniteQuery({ ...shelfQuery(library?.id ?? '', revision), enabled: Boolean(library) });
  const [undoing, setUndoing] = useState(false);
  const [recovering, setRecovering] = useState<Group | null>(null);
  const [opened, setOpened] = useState<ReadonlySet<string>>(new Set());
  if (library === null) return <Nowhere />;
  if (pages.error) return <Nowhere error={pages.error} />;
  if (!library || !pages.data) return <Waiting screen />;
  const [first] = pages.data.pages;
  const items = pages.data.pages.flatMap((page) => page.items);
  return (
    <main className="shelf" aria-busy={pages.isFetching}>
      <h1>
        <Word of="Recovery shelf" /> of {library.name}
      </h1>
      <p className="lead">
        {first && first.total > 0 ? (
          <>
            {first.total.toLocaleString('en')} {first.total === 1 ? 'version' : 'versions'},{' '}
            {bytes(first.bytes)}. Each goes for good when its days are over; its row in the history stays,
            with number, author, comment, size and hash.
          </>
        ) : (
          'Nothing is on the shelf. Content that is thinned waits here before it goes for good.'
        )}
      </p>
      {revision !== null && (
        <p className="acts">
          <span>Only what the rules thinned under revision {revision} of the Rulebook.</span>
          {first?.mayRecover && first.total > 0 && !undoing && (
            <Button onClick={() => setUndoing(true)}>Undo what revision {revision} thinned</Button>
          )}
          <button type="button" className="quiet" onClick={() => setSearch({})}>
            All that is on the shelf
          </button>
        </p>
      )}
      {revision !== null && undoing && first && (
        <RecoverAll
          name={`Undo what revision ${revision} thinned`}
          keptAs={`recoverAll ${library.id} ${revision}`}
          total={first.total}
          size={first.bytes}
          next={(refused) => thinnedUnder(library.id, revision, refused)}
          onLeave={() => setUndoing(false)}
        />
      )}
      {items.length > 0 && (
        <table aria-label="Thinned versions">
          <thead>
            <tr>
              <th>Document</th>
              <th>Version</th>
              <th>Why it was thinned</th>
              <th className="right">Size</th>
              <th>Left</th>
              <th>
                <span className="unseen">Acts</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {groupsOf(items).map((group) => (
              <GroupRows
                key={group.head.versionId}
                group={group}
                code={library.code}
                isOpen={opened.has(group.head.versionId)}
                onOpen={() => setOpened(toggled(opened, group.head.versionId))}
                onRecover={first?.mayRecover ? setRecovering : null}
              />
            ))}
          </tbody>
        </table>
      )}
      {recovering && (
        <RecoverGroup
          key={`${recovering.head.versionId} ${recovering.items.length}`}
          group={recovering}
          onLeave={() => setRecovering(null)}
        />
      )}
      {pages.hasNextPage && (
        <button type="button" className="quiet more" onClick={() => void pages.fetchNextPage()}>
          More
        </button>
      )}
    </main>
  );
}

/** Versions that are asked for at once. */
const atOnce = 50;

async function thinnedUnder(id: string, revision: number, refused: number): Promise<readonly ShelfItem[]> {
  const behind = refused === 0 ? {} : { cursor: String(refused) };
  const query = { revision, limit: atOnce, ...behind };
  return (await call(routes.shelf, { params: { id }, query, forAct: true })).items;
}

function toggled(set: ReadonlySet<string>, one: string): ReadonlySet<string> {
  const next = new Set(set);
  if (!next.delete(one)) next.add(one);
  return next;
}

/** What a group is called: "3.0 and its drafts 2.1 to 2.4", or its one version. */
function groupWords({ items: [first, ...rest], head }: Group): string {
  if (rest.length === 0) return numberWords(head.label);
  const isPublished = head.label.endsWith('.0');
  const last = isPublished ? rest.at(-2) : head;
  const drafts = last ? `drafts ${first.label} to ${last.label}` : `draft ${first.label}`;
  return isPublished ? `${head.label} and its ${drafts}` : drafts;
}

interface GroupProps {
  group: Group;
  code: string;
  isOpen: boolean;
  onOpen: () => void;
  /** Null where one may not recover. */
  onRecover: ((group: Group) => void) | null;
}

/** A publication and its drafts in one row, unfolded to each of them; a version alone is its own row. */
function GroupRows({ group, code, isOpen, onOpen, onRecover }: GroupProps) {
  const { items, head } = group;
  const { document, thinned } = head;
  const words = groupWords(group);
  const row = (one: Group, name: ReactNode, isPart = false) => (
    <tr key={one.head.versionId + String(isPart)} className={isPart ? 'shelf-part' : ''}>
      <td>
        {!isPart && (
          <>
            <span className="number doc-number">{document.number}</span>{' '}
            <Link to={`/${code}/documents/${document.id}`} className="title">
              <bdi>{document.title}</bdi>
            </Link>
          </>
        )}
      </td>
      <td className="number">{name}</td>
      <td>
        {one.head.thinned.why}
        <span className="muted"> · {date(one.head.thinned.at)}</span>
      </td>
      <td className="right muted">{bytes(sizeOf(one))}</td>
      <td>
        <Clock thinned={thinned} />
      </td>
      <td className="right">
        {onRecover && (
          <button
            type="button"
            className="quiet"
            aria-label={`Recover ${document.number} ${groupWords(one)}`}
            onClick={() => onRecover(one)}
          >
            Recover{one.items.length > 1 && ` ${one.items.length}`}
          </button>
        )}
      </td>
    </tr>
  );
  if (items.length === 1) return row(group, words);
  return (
    <>
      {row(
        group,
        <button type="button" className="quiet" aria-expanded={isOpen} onClick={onOpen}>
          {words}
        </button>,
      )}
      {isOpen && items.map((item) => row({ items: [item], head: item }, numberWords(item.label), true))}
    </>
  );
}

const sizeOf = ({ items }: Group): number => items.reduce((sum, { size }) => sum + size, 0);

/** Days left, in words and as a line that shortens. */
function Clock({ thinned }: { thinned: ShelfItem['thinned'] }) {
  const [from, until, now] = [dayjs(thinned.at), dayjs(thinned.until), dayjs()];
  const share = Math.max(0, Math.min(1, until.diff(now) / Math.max(1, until.diff(from))));
  // The day that has begun counts: in the minute of thinning it is as many as the Rulebook says.
  const days = Math.ceil(until.diff(now, 'day', true) - 1 / 24);
  return (
    <span className="clock" title={`Until ${fullTime(thinned.until)}`}>
      {days > 0 ? `${days} ${days === 1 ? 'day' : 'days'}` : `until ${until.format('HH:mm')}`}
      <span className="clock-line">
        <span style={{ width: `${share * 100}%` }} className={share < 0.2 ? 'clock-short' : ''} />
      </span>
    </span>
  );
}

/** One version with its own consequences; several one after another. */
function RecoverGroup({ group, onLeave }: { group: Group; onLeave: () => void }) {
  const { items, head } = group;
  if (items.length === 1) return <Recover item={head} onLeave={onLeave} />;
  return (
    <RecoverAll
      name={`Recover ${head.document.number} ${groupWords(group)}`}
      keptAs={`recoverAll ${head.versionId}`}
      total={items.length}
      size={sizeOf(group)}
      next={() => Promise.resolve(items)}
      onLeave={onLeave}
    />
  );
}

function Recover({ item, onLeave }: { item: ShelfItem; onLeave: () => void }) {
  const client = useQueryClient();
  const message = useMessages();
  const about = aboutDocument(
    item.document,
    `recover ${item.versionId}`,
    `Recover ${numberWords(item.label)}`,
  );
  const form = useUnfinished(about, { comment: '' });
  const recover = async (reason: string): Promise<void> => {
    await call(routes.recoverVersion, {
      params: { id: item.document.id, v: item.versionId },
      body: { reason },
    });
    void message.success(`${item.document.number} ${numberWords(item.label)} is back, and sheltered.`);
    await refreshDocument(client, item.document.id);
  };
  return (
    <Consequences
      outcomes={[{ label: `Recover ${numberWords(item.label)}`, act: recover, primary: true }]}
      commentHint="Why is it wanted back?"
      form={form}
      onLeave={onLeave}
    >
      The content of {item.document.number} {numberWords(item.label)} comes back, {bytes(item.size)}. It is
      sheltered, since the rules would thin it again; ending the shelter lets it go.
    </Consequences>
  );
}
