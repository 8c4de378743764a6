import { PlusIcon } from '@phosphor-icons/react';
import { type Document, type Library, namesOnPath } from '@polychron/contract';
import { nearlyFull } from '@polychron/core';
import { useInfiniteQuery } from '@tanstack/react-query';
import { Button } from 'antd';
import { type CSSProperties, lazy, Suspense, useMemo, useState } from 'react';
import { Link, useSearchParams } from 'react-router-dom';
import { Nowhere } from '../../ui/Nowhere.tsx';
import { useLibrary } from '../../parts/useLibrary.ts';
import { documentsQuery, type RegisterFilter } from '../../parts/queries.ts';
import { useLooking, useOnlyLooks } from '../../ui/looking.ts';
import { useDropped } from '../../parts/drop/useDropped.ts';
import { useFileDrop } from '../../parts/drop/useFileDrop.ts';
import { useCheckOut } from '../../parts/custody/useCheckOut.ts';
import { hasTypedInto } from '../../ui/unfinished.ts';
import { useGiveBack } from '../../parts/custody/useGiveBack.ts';
import { sentenceOf } from '../../ui/api.ts';
import { useMessages } from '../../ui/messages.tsx';
import { Waiting } from '../../ui/Waiting.tsx';
import { useWidth } from '../../ui/useWidth.ts';
import { bytes, date } from '../../ui/when.ts';
import { ColumnChoice, ColumnHeads } from './Columns.tsx';
import { templateOf } from './columns.ts';
import { FilterSentence } from './FilterSentence.tsx';
import { RegisterRow, type RowAct } from './RegisterRow.tsx';
import { useLayout, useShownLayout } from './useLayout.ts';
import { focusRow, useRegisterKeys } from './useRegisterKeys.ts';
import { useRows } from './useRows.ts';
import './register.css';

// Read once they are needed, or before, while nothing else is done: the list itself comes first.
const NewDocument = lazy(async () => ({ default: (await import('./NewDocument.tsx')).NewDocument }));
const BulkBar = lazy(async () => ({ default: (await import('./BulkBar.tsx')).BulkBar }));
const SubjectTree = lazy(async () => ({ default: (await import('./SubjectTree.tsx')).SubjectTree }));
const SidePanel = lazy(async () => ({ default: (await import('./SidePanel.tsx')).SidePanel }));
const Dropped = lazy(async () => ({ default: (await import('../../parts/drop/Dropped.tsx')).Dropped }));

const filterNames = [
  'q',
  'state',
  'heldBy',
  'subject',
  'path',
  'overdue',
  'review',
  'voided',
  'sort',
] as const;

/** The list of controlled documents of a library. */
export function RegisterPage() {
  const library = useLibrary();
  const onlyLooks = useOnlyLooks();
  const isPast = useLooking(({ at }) => at !== null);
  const [search, setSearch] = useSearchParams();
  const filter = Object.fromEntries(
    filterNames.flatMap((name) => (search.has(name) ? [[name, search.get(name)]] : [])),
  ) as RegisterFilter;
  // As of an earlier moment documents come by number.
  if (isPast) delete filter.sort;
  const list = useInfiniteQuery({ ...documentsQuery(library?.id ?? '', filter), enabled: Boolean(library) });
  const documents = list.data?.pages.flatMap((page) => page.items) ?? [];
  const [selectedId, setSelectedId] = useState<string | null>(null);
  // What is being done beside the list, and to which document.
  const [doing, setDoing] = useState<{ id: string; act: RowAct } | null>(null);
  const giveBack = useGiveBack();
  const message = useMessages();
  const act = (document: Document, which: RowAct): void => {
    // Nothing is lost when nothing was saved or typed, so nothing is asked.
    if (which === 'giveBack' && document.custody?.saves === 0 && !hasTypedInto(document.id)) {
      giveBack(document).catch((error: unknown) => void message.error(sentenceOf(error), 8));
      return;
    }
    setSelectedId(document.id);
    setDoing({ id: document.id, act: which });
  };
  const [unrolled, setUnrolled] = useState<ReadonlySet<string>>(new Set());
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const tick = (id: string): void =>
    setTicked((now) => {
      const next = new Set(now);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  // The list comes once the library is known.
  const [element, setElement] = useState<HTMLDivElement | null>(null);
  const room = useWidth(useMemo(() => ({ current: element }), [element]));
  const { subjects, showSubjects } = useLayout();
  const layout = useShownLayout();
  // Files that become documents, and their subjects.
  const [adding, setAdding] = useState<{ files: File[]; names: string[] } | null>(null);
  const [names, setNames] = useState<string[]>([]);
  const dropped = useDropped();
  const { checkOut, busy } = useCheckOut();
  const selected = documents.find((document) => document.id === selectedId) ?? null;
  const toggle = (id: string): void =>
    setUnrolled((now) => {
      const next = new Set(now);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  const { placeRows, height, laid, show } = useRows(documents, element, list);
  useRegisterKeys({
    documents,
    selected,
    select: (index) => {
      const id = documents[index]?.id;
      setSelectedId(id ?? null);
      show(index);
      if (id) focusRow(id);
    },
    toggle,
    changeFields: (document) => act(document, 'fields'),
    code: library?.code ?? '',
  });

  // What is made while a subject's documents are listed is to be of that subject.
  const here = filter.path ? namesOnPath(filter.path) : [];
  const mayCreate = !onlyLooks && Boolean(library?.acts.create.allowed);
  /** Opens the form of new documents, or puts the files into the one that is open. */
  const addDocuments = (files: File[], into: string[]): void =>
    setAdding((open) => ({
      files: open && open.files.length > 1 ? [...open.files, ...files] : files,
      names: open?.names ?? into,
    }));
  /** Files go where they are meant for; those of no document become new ones. */
  const takeFiles = async (files: File[], { on, into = here }: Taking = {}): Promise<void> => {
    if (!library) return;
    setNames(into);
    const { meantFor } = await import('../../parts/drop/meantFor.ts');
    const place = { libraryId: library.id, on };
    const meant = await Promise.all(files.map((file) => meantFor(file, place)));
    if (meant.every(({ clear, documents: found }) => clear && found.length === 0)) addDocuments(files, into);
    else dropped.add(meant);
  };
  const drop = useFileDrop(mayCreate ? (files) => void takeFiles(files) : null);

  if (library === null) return <Nowhere />;
  if (list.error) return <Nowhere error={list.error} />;
  if (!library) return <Waiting lines={9} screen />;
  const filtered = filterNames.some((name) => name !== 'sort' && search.has(name));
  return (
    <main
      data-title={`${library.name}, Register`}
      className={`register ${selected ? 'with-panel' : ''} ${subjects ? 'with-subjects' : ''} ${drop.over ? 'files-over' : ''}`}
      {...drop.handlers}
    >
      <div className="register-head">
        <FilterSentence
          filter={filter}
          seesVoided={library.acts.seeVoided.allowed}
          documents={documents}
          total={list.data?.pages[0]?.total ?? null}
          about={list.data?.pages[0]?.about ?? false}
          all={isPast ? null : library.documents}
          onChange={(changed) => setSearch(withChanges(search, changed))}
        />
        <nav className="acts register-links" aria-label="Library">
          <button
            type="button"
            className="quiet"
            aria-pressed={subjects}
            onClick={() => showSubjects(!subjects)}
          >
            Subjects
          </button>
          <ColumnChoice />
          <Link to={`/${library.code}/rulebook`} className="quiet">
            Rulebook
          </Link>
          {library.acts.seePast.allowed && (
            <Link to={`/${library.code}/shelf`} className="quiet">
              Recovery shelf
            </Link>
          )}
        </nav>
        {mayCreate && (
          <Button
            icon={<PlusIcon size={15} weight="bold" />}
            onClick={() => setAdding({ files: [], names: here })}
          >
            New document
          </Button>
        )}
      </div>
      {library.closed && (
        <p className="allowance" role="status">
          This library is closed since {date(library.closed)}: its documents can be read, nothing in it
          changes.
        </p>
      )}
      <Allowance library={library} />
      {adding && (
        <Suspense>
          <NewDocument
            library={library}
            files={adding.files}
            subject={adding.names}
            onMany={(files) => addDocuments(files, here)}
            onLeave={() => setAdding(null)}
            onMade={(document) => {
              setAdding(null);
              if (document) setSelectedId(document.id);
            }}
          />
        </Suspense>
      )}
      {dropped.waiting.meant.length > 0 && (
        <Suspense>
          <Dropped {...dropped.waiting} onNew={(files) => addDocuments(files, names)} />
        </Suspense>
      )}
      <div className="register-body">
        {subjects && (
          <nav className="subjects" aria-label="Subjects">
            <Suspense fallback={<Waiting lines={5} />}>
              <SubjectTree
                key={library.id}
                libraryId={library.id}
                path={filter.path}
                onChoose={(path) => setSearch(withChanges(search, { path, subject: '' }))}
                onFiles={mayCreate ? (files, into) => void takeFiles(files, { into }) : null}
              />
            </Suspense>
          </nav>
        )}
        <div
          ref={setElement}
          className="register-list"
          style={{ '--columns': templateOf(layout, room) } as CSSProperties}
          role="table"
          aria-label={`Register of ${library.name}`}
          aria-busy={list.isFetching}
          aria-rowcount={list.hasNextPage ? -1 : documents.length + 1}
        >
          <div className="row row-head" role="row" aria-rowindex={1}>
            <ColumnHeads room={room} />
          </div>
          <div role="rowgroup" ref={placeRows} className="rows" style={{ height }}>
            {laid.map(({ document, index, top, measure }) => (
              <div
                key={document.id}
                role="none"
                ref={measure}
                data-index={index}
                className="row-place"
                style={{ transform: `translateY(${top}px)` }}
              >
                <RegisterRow
                  document={document}
                  place={index + 2}
                  code={library.code}
                  ticked={ticked.has(document.id)}
                  onTick={() => tick(document.id)}
                  selected={document.id === selectedId}
                  room={room}
                  unrolled={unrolled.has(document.id)}
                  busy={busy === document.id}
                  onSelect={() => setSelectedId(document.id === selectedId ? null : document.id)}
                  onUnroll={() => toggle(document.id)}
                  onCheckOut={() => void checkOut(document)}
                  onAct={(which) => act(document, which)}
                  onFiles={mayCreate ? (files) => void takeFiles(files, { on: document }) : null}
                />
              </div>
            ))}
          </div>
          {!list.data && (
            <div role="row">
              <span role="cell">
                <Waiting lines={8} />
              </span>
            </div>
          )}
          {list.data && documents.length === 0 && (
            <div className="empty" role="row">
              <span role="cell">
                {filtered && 'No document fits the sentence above.'}
                {!filtered &&
                  !mayCreate &&
                  'Nothing here is for you to see yet. What is published here stands in this list.'}
                {!filtered && mayCreate && (
                  <>
                    The library is empty. Drop files anywhere on this page, or{' '}
                    <button
                      type="button"
                      className="choice"
                      onClick={() => setAdding({ files: [], names: here })}
                    >
                      register its first document
                    </button>
                    .
                  </>
                )}
              </span>
            </div>
          )}
          {list.hasNextPage && (
            <div role="row" className="more">
              <span role="cell">
                <button
                  type="button"
                  className="quiet"
                  disabled={list.isFetchingNextPage}
                  onClick={() => void list.fetchNextPage()}
                >
                  More documents
                </button>
              </span>
            </div>
          )}
        </div>
        {selected && (
          <Suspense>
            <SidePanel
              key={`${selected.id} ${doing?.id === selected.id ? doing.act : ''}`}
              listed={selected}
              code={library.code}
              onCheckOut={() => void checkOut(selected)}
              busy={busy === selected.id}
              library={library}
              doing={doing?.id === selected.id ? doing.act : null}
              onDoing={(which) => setDoing(which && { id: selected.id, act: which })}
              onLeave={() => setSelectedId(null)}
            />
          </Suspense>
        )}
      </div>
      {ticked.size > 0 && (
        <Suspense>
          <BulkBar
            key={[...ticked].join()}
            documents={documents.filter(({ id }) => ticked.has(id))}
            onLeave={() => setTicked(new Set())}
          />
        </Suspense>
      )}
    </main>
  );
}

/** Which document files were dropped on, or which subject. */
interface Taking {
  on?: Document;
  into?: string[];
}

/** A library with an allowance says when it is nearly full. */
function Allowance({ library }: { library: Library }) {
  const { allowanceBytes } = library.rules;
  if (
    allowanceBytes === null ||
    library.bytesKept === null ||
    library.bytesKept < allowanceBytes * nearlyFull
  )
    return null;
  const full = library.bytesKept >= allowanceBytes;
  return (
    <p className="allowance" role="status">
      {full ? 'The library is full' : 'The library is nearly full'}: {bytes(library.bytesKept)} of{' '}
      {bytes(allowanceBytes)} are kept. {full ? 'New content is refused.' : ''}{' '}
      <Link to={`/${library.code}/rulebook`}>Other limits</Link> or thinning old versions make room.
    </p>
  );
}

function withChanges(search: URLSearchParams, changed: Record<string, string>): URLSearchParams {
  const next = new URLSearchParams(search);
  for (const [name, value] of Object.entries(changed))
    if (value) next.set(name, value);
    else next.delete(name);
  return next;
}
