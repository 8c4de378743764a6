import { numberWords } from '@polychron/core';
import { type InForceList, type InForceQuery, namesOnPath, routes } from '@polychron/contract';
import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query';
import { Input } from 'antd';
import { useCallback, useDeferredValue, useEffect, useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router-dom';
import { ListForms } from '../../parts/listForms/ListForms.tsx';
import { inForceQuery, librariesQuery, readAgain, readRest } from '../../parts/queries.ts';
import { useLibrary } from '../../parts/useLibrary.ts';
import { call } from '../../ui/api.ts';
import { Nowhere } from '../../ui/Nowhere.tsx';
import { useLooking, useOnlyLooks } from '../../ui/looking.ts';
import { Waiting } from '../../ui/Waiting.tsx';
import { date, dayTime, fullTime, moment } from '../../ui/when.ts';
import { WhenSeen } from '../../ui/WhenSeen.tsx';
import { Categories } from './Categories.tsx';
import { sectionsOf } from './sections.ts';
import './inForce.css';

/** The readers' place: what holds now over all libraries or in one, by category, to scan and to type in. */
export function InForcePage() {
  const { code } = useParams();
  const library = useLibrary();
  const [search, setSearch] = useSearchParams();
  const path = search.get('path') ?? undefined;
  const [typed, setTyped] = useState('');
  const past = useLooking(({ at }) => at);
  const q = useDeferredValue(typed.trim());
  const list = useInfiniteQuery({
    ...inForceQuery({ libraryId: code === undefined ? undefined : library?.id, q, path }),
    enabled: code === undefined || Boolean(library),
  });
  if (code !== undefined && library === null) return <Nowhere />;
  if (list.error) return <Nowhere error={list.error} />;
  const items = list.data?.pages.flatMap((page) => page.items) ?? [];
  const [first] = list.data?.pages ?? [];
  const sections = sectionsOf(items);
  // Of an earlier moment it is known how many there are at least.
  const about = past !== null ? 'at least ' : 'about ';
  const total = first ? `${first.about ? about : ''}${first.total.toLocaleString('en')}` : '';
  return (
    <main className="in-force">
      <header className="in-force-head">
        <h1>In force</h1>
        <Input
          allowClear
          autoFocus
          value={typed}
          maxLength={200}
          placeholder="Type a number, or words of a title or comment"
          aria-label="Narrow the list"
          onChange={(event) => setTyped(event.target.value)}
        />
        {first && (
          <span className="muted" role="status">
            {total} {first.total === 1 ? 'document' : 'documents'}
            {path && ` on ${namesOnPath(path).join(' › ')}`}
          </span>
        )}
        {first && <span className="print-only">as of {moment(past ?? new Date().toISOString())}</span>}
        {first && q === '' && path === undefined && <SinceLastLook list={first} items={items} />}
        <Forms
          libraryId={library?.id}
          code={code}
          query={{ q: q || undefined, path }}
          readAll={() => readRest(list)}
        />
      </header>
      <div className="in-force-body">
        <Categories
          code={code}
          path={path}
          onChoose={(next) => setSearch(next === undefined ? {} : { path: next }, { replace: true })}
        />
        <div className="in-force-list">
          {list.isLoading && <Waiting lines={9} />}
          {list.data && items.length === 0 && <Nothing q={q} />}
          {sections.map(({ key, library: of, subject, groups }, place) => (
            <section key={key} aria-label={`${of.name}, ${subject}`}>
              {sections[place - 1]?.library.id !== of.id && code === undefined && (
                <h2 className="in-force-library">{of.name}</h2>
              )}
              <h3>{subject}</h3>
              {groups.map((group) => (
                <div key={group.key}>
                  {group.subject && <h4>{group.subject}</h4>}
                  <ul>
                    {group.items.map((item) => (
                      <Row key={item.document.id} item={item} />
                    ))}
                  </ul>
                </div>
              ))}
            </section>
          ))}
          {list.hasNextPage && (
            <WhenSeen onSeen={() => !list.isFetchingNextPage && void list.fetchNextPage()}>
              The next documents come as you read on.
            </WhenSeen>
          )}
        </div>
      </div>
    </main>
  );
}

/** The list as it stands here, on paper or as a file. */
function Forms({
  libraryId,
  code,
  query,
  readAll,
}: {
  libraryId: string | undefined;
  code: string | undefined;
  query: Pick<InForceQuery, 'q' | 'path'>;
  readAll: () => Promise<void>;
}) {
  const name = `${code ?? 'All libraries'} in force`;
  return libraryId === undefined ? (
    <ListForms route={routes.inForce} params={{}} query={query} name={name} readAll={readAll} />
  ) : (
    <ListForms
      route={routes.libraryInForce}
      params={{ id: libraryId }}
      query={query}
      name={name}
      readAll={readAll}
    />
  );
}

function Nothing({ q }: { q: string }) {
  return (
    <p className="empty">
      {q === ''
        ? 'Nothing is in force here yet. What is published stands here from the moment it comes into force.'
        : `Nothing that is in force has “${q}”.`}
    </p>
  );
}

/** What is new since one last looked; who never did has looked from now on. */
function SinceLastLook({ list, items }: { list: InForceList; items: InForceList['items'] }) {
  const client = useQueryClient();
  const onlyLooks = useOnlyLooks();
  const { lookedAt } = list;
  const fresh = items.filter((item) => item.new).length;
  const isFirst = lookedAt === null && !onlyLooks;
  const look = useCallback(async (): Promise<void> => {
    await call(routes.lookedAtInForce, { body: { at: new Date().toISOString() } });
    await readAgain(client, { queryKey: ['documents'] });
  }, [client]);
  useEffect(() => {
    if (isFirst) void look();
  }, [isFirst, look]);
  if (lookedAt === null || onlyLooks) return null;
  return (
    <span className="in-force-since">
      {fresh === 0 ? 'nothing new' : `${fresh} new`} since{' '}
      <span title={fullTime(lookedAt)}>{dayTime(lookedAt)}</span>
      {fresh > 0 && (
        <button type="button" className="quiet" onClick={() => void look()}>
          I have looked
        </button>
      )}
    </span>
  );
}

function Row({ item }: { item: InForceList['items'][number] }) {
  const { document, version, since, comment, before, type } = item;
  const { data: libraries } = useQuery(librariesQuery);
  const works = libraries?.items.find(({ id }) => id === document.library.id)?.acts.seePast.allowed;
  const address = `/${document.library.code}/documents/${document.id}`;
  return (
    <li>
      <span className="number doc-number">{document.number}</span>
      <span className="in-force-what">
        <Link className="title" to={`${address}/read`}>
          <bdi>{document.title}</bdi>
        </Link>
        {item.toRead && <strong className="in-force-to-read">to be read</strong>}
        {item.new && (
          <span className="in-force-new">
            new
            {comment && (
              <>
                : “<bdi>{comment}</bdi>”
              </>
            )}
            {before && works && (
              <>
                {' '}
                <Link to={`${address}/compare/${encodeURIComponent(before)}/${encodeURIComponent(version)}`}>
                  what changed
                </Link>
              </>
            )}
          </span>
        )}
      </span>
      <span className="muted">{type}</span>
      <span className="number">{numberWords(version)}</span>
      <span className="muted" title={fullTime(since)}>
        since {date(since)}
      </span>
    </li>
  );
}
