import { numberWords } from '@polychron/core';
import { routes, type Document, type Version } from '@polychron/contract';
import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query';
import { Button } from 'antd';
import { type Ref, useEffect, useRef, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { useNavigate, useParams } from 'react-router-dom';
import { Nowhere } from '../../ui/Nowhere.tsx';
import { useLibrary } from '../../parts/useLibrary.ts';
import { PageError, addressOf, call, download, sentenceOf } from '../../ui/api.ts';
import { DecidedRun } from '../../parts/approval/DecidedRun.tsx';
import { PublishConsequences, publishLabel, SubmitConsequences } from '../../parts/approval/Publishing.tsx';
import { ConfirmReading } from '../../parts/distribution/ConfirmReading.tsx';
import { landingOf } from '../../parts/checkIn/landing.ts';
import { LandingOf } from '../../parts/checkIn/LandingOf.tsx';
import { Dropped } from '../../parts/drop/Dropped.tsx';
import { meantFor } from '../../parts/drop/meantFor.ts';
import { useDropped } from '../../parts/drop/useDropped.ts';
import { useFileDrop } from '../../parts/drop/useFileDrop.ts';
import { documentQuery, sessionQuery, versionsQuery } from '../../parts/queries.ts';
import { PrintHead } from '../../parts/PrintHead.tsx';
import { ReadingOf } from '../../parts/reading/ReadingOf.tsx';
import { Waiting } from '../../ui/Waiting.tsx';
import { useLooking, useOnlyLooks } from '../../ui/looking.ts';
import { RestoreConsequences } from '../../parts/restore/RestoreConsequences.tsx';
import { IssuedCopy } from '../../parts/issuing/IssuedCopy.tsx';
import { VoidedHere } from '../../parts/standing/Voiding.tsx';
import { Strand } from '../../parts/strand/Strand.tsx';
import { baseOf, useCheckOut } from '../../parts/custody/useCheckOut.ts';
import { labelWords, stateWords } from '../../parts/versionNumber/VersionNumber.tsx';
import { date, fullTime } from '../../ui/when.ts';
import { Facts } from './Facts.tsx';
import { firstShown } from './firstShown.ts';
import { useMessages } from '../../ui/messages.tsx';
import './document.css';

type Asking = { kind: 'publish' } | { kind: 'submit' } | { kind: 'restore'; version: Version } | null;

/** One document: its Strand, one version as it reads, its facts and versions. */
export function DocumentPage() {
  const { code = '', id = '', label } = useParams();
  const navigate = useNavigate();
  const { data: document, error } = useQuery({ ...documentQuery(id) });
  const list = useInfiniteQuery(versionsQuery(id));
  const { checkOut, busy } = useCheckOut();
  const { data: session } = useQuery(sessionQuery);
  const onlyLooks = useOnlyLooks();
  const [asking, setAsking] = useState<Asking>(null);
  const [changing, setChanging] = useState(false);
  const [landing, setLanding] = useState<{ file: File | null } | null>(null);
  const dropped = useDropped();
  const takeFiles = async (files: File[]): Promise<void> => {
    if (!document) return;
    const place = { libraryId: document.library.id, on: document };
    const meant = await Promise.all(files.map((file) => meantFor(file, place)));
    const [only] = meant.length === 1 ? meant : [];
    // An open label takes what is clearly its own; what is typed there stays.
    if (landing && only?.clear && only.documents[0]?.id === id) setLanding({ file: only.file });
    else dropped.add(meant);
  };
  const drop = useFileDrop(document?.toCome ? (files) => void takeFiles(files) : null);
  // The Strand shows the whole history, so every page of it is read, one after another.
  const { hasNextPage, isFetching, fetchNextPage } = list;
  useEffect(() => {
    if (hasNextPage && !isFetching) void fetchNextPage();
  }, [hasNextPage, isFetching, fetchNextPage]);
  const versions = list.data?.pages.flatMap((page) => page.items) ?? [];
  const shown =
    document &&
    (label === undefined
      ? firstShown(document, onlyLooks ? null : (session?.account ?? null))
      : versions.find((version) => version.label === label));
  const address = `/${code}/documents/${id}`;
  const choose = (chosen: string): void =>
    void navigate(`${address}/versions/${encodeURIComponent(chosen)}`, { replace: label !== undefined });
  const compare = (from: string, to: string): void =>
    void navigate(`${address}/compare/${encodeURIComponent(from)}/${encodeURIComponent(to)}`);

  // It leads to the button; Enter there checks out.
  const checkOutButton = useRef<HTMLButtonElement>(null);
  useHotkeys('o', () => checkOutButton.current?.focus());
  useHotkeys('v', () => {
    if (document?.inForce && document.inForce.id !== document.latest.id)
      compare(document.inForce.label, document.latest.label);
  });
  useHotkeys(
    'i',
    () => {
      if (document && landingOf(document)) setLanding((open) => open ?? { file: null });
    },
    { preventDefault: true },
  );
  useHotkeys(
    'f',
    () => {
      if (document?.acts.changeFields.allowed) setChanging(true);
    },
    { preventDefault: true },
  );

  if (error) return <Nowhere error={error} />;
  if (list.error) return <Nowhere error={list.error} />;
  if (!document) return <Waiting lines={9} screen />;
  if (!shown && list.data && label !== undefined && !list.hasNextPage)
    return <Nowhere error={new PageError(`${document.number} has no version ${label} that you may see`)} />;
  return (
    <main className={drop.over ? 'document files-over' : 'document'} {...drop.handlers}>
      <header className="document-head">
        <span className="number doc-number">{document.number}</span>
        <h1 dir="auto">{document.title}</h1>
        <DocumentActs
          document={document}
          busy={busy === id}
          onCheckOut={() => void checkOut(document)}
          onPublish={() => setAsking({ kind: 'publish' })}
          onSubmit={() => setAsking({ kind: 'submit' })}
          onLand={() => setLanding((open) => open ?? { file: null })}
          onCompare={compare}
          checkOutButton={checkOutButton}
        />
      </header>
      <VoidedHere document={document} />
      <Strand
        document={document}
        versions={[...versions].reverse()}
        size="large"
        chosen={shown?.label}
        onChoose={choose}
        onCompare={compare}
        landing={landingOf(document)}
        onLanding={() => setLanding(null)}
      />
      {landing && (
        <section className="landing-strip" aria-label="Check in">
          <LandingOf document={document} file={landing.file} onLeave={() => setLanding(null)} />
        </section>
      )}
      {dropped.waiting.meant.length > 0 && <Dropped {...dropped.waiting} />}
      {asking?.kind === 'publish' && (
        <PublishConsequences
          document={document}
          onLeave={() => setAsking(null)}
          onDone={() => void navigate(address)}
        />
      )}
      {asking?.kind === 'submit' && (
        <SubmitConsequences document={document} onLeave={() => setAsking(null)} />
      )}
      {asking?.kind === 'restore' && (
        <RestoreConsequences
          document={document}
          version={asking.version}
          onLeave={() => setAsking(null)}
          onDone={(made) => choose(made.label)}
        />
      )}
      <div className="document-body">
        <section className="reading" aria-label="Text">
          {shown && (
            <VersionFrame
              document={document}
              shown={shown}
              onRestore={() => setAsking({ kind: 'restore', version: shown })}
              onCompare={compare}
            />
          )}
          {shown && <PrintHead versions={[shown]} />}
          {shown && shown.id === document.inForce?.id && <ConfirmReading document={document} />}
          {shown?.approval && <DecidedRun run={shown.approval} />}
          {shown && !shown.thinned && <ReadingOf documentId={id} version={shown} />}
          {shown?.thinned && (
            <p className="empty">
              The content of {numberWords(shown.label)} was thinned. {shown.thinned.why} Its record is on the
              right.
            </p>
          )}
        </section>
        <Facts
          document={document}
          versions={versions}
          shown={shown}
          address={address}
          busy={busy === id}
          onCheckOut={() => void checkOut(document)}
          onCompare={compare}
          changing={changing}
          onChanging={setChanging}
          onRecorded={choose}
        />
      </div>
    </main>
  );
}

interface ActsProps {
  document: Document;
  busy: boolean;
  onCheckOut: () => void;
  onPublish: () => void;
  onSubmit: () => void;
  onLand: () => void;
  onCompare: (from: string, to: string) => void;
  checkOutButton: Ref<HTMLButtonElement>;
}

function DocumentActs({
  document,
  busy,
  onCheckOut,
  onPublish,
  onSubmit,
  onLand,
  onCompare,
  checkOutButton,
}: ActsProps) {
  const { inForce, latest, acts } = document;
  return (
    <div className="acts">
      {inForce && inForce.id !== latest.id && (
        <Button onClick={() => onCompare(inForce.label, latest.label)}>
          Compare {latest.label} with {numberWords(inForce.label)} <kbd>v</kbd>
        </Button>
      )}
      {acts.submit.allowed && <Button onClick={onSubmit}>Submit {latest.label}</Button>}
      {acts.publish.allowed && <Button onClick={onPublish}>{publishLabel(document)}</Button>}
      {acts.upload.allowed && <Button onClick={onLand}>Upload a version</Button>}
      {acts.checkIn.allowed && (
        <Button type="primary" onClick={onLand}>
          Check in <kbd>i</kbd>
        </Button>
      )}
      {acts.checkOut.allowed && (
        <Button ref={checkOutButton} type="primary" loading={busy} onClick={onCheckOut}>
          Check out {numberWords(baseOf(document).label)} <kbd>o</kbd>
        </Button>
      )}
    </div>
  );
}

/** Why an earlier version cannot be restored now, for whoever restores versions here. */
function NoRestore({ document, shown }: { document: Document; shown: Version }) {
  const works = useLibrary()?.acts.checkIn.allowed ?? false;
  const { restore } = document.acts;
  const isCurrent = shown.id === document.latest.id || shown.id === document.inForce?.id;
  if (!works || isCurrent || (restore.allowed && !shown.thinned)) return null;
  return (
    <span className="muted">No restoring: {restore.allowed ? 'its content was thinned.' : restore.why}</span>
  );
}

/** What the version shown is, and what is in force; a past version says so. */
function VersionFrame({
  document,
  shown,
  onRestore,
  onCompare,
}: {
  document: Document;
  shown: Version;
  onRestore: () => void;
  onCompare: (from: string, to: string) => void;
}) {
  const { inForce, latest } = document;
  const client = useQueryClient();
  const message = useMessages();
  const navigate = useNavigate();
  const onlyLooks = useOnlyLooks();
  const isPast = useLooking(({ at }) => at !== null);
  const works = useLibrary()?.acts.checkIn.allowed ?? false;
  const takeCopy = async (): Promise<void> => {
    try {
      await call(routes.takeLooseCopy, { params: { id: document.id, v: shown.label }, body: {} });
      await client.invalidateQueries({ queryKey: ['desk'] });
      void message.success(
        `A private copy of ${numberWords(shown.label)} is on your Desk. It has no versions.`,
      );
      void navigate('/desk');
    } catch (refusal) {
      void message.error(sentenceOf(refusal), 8);
    }
  };
  const isInForce = inForce?.id === shown.id;
  const other = shown.id === latest.id ? 'draft' : 'past';
  return (
    <div className={`version-frame ${isInForce && !document.voided ? 'in' : other}`}>
      <span title={shown.why}>
        <strong>
          {labelWords(shown)} · {document.voided ? 'void' : stateWords(shown)}
        </strong>
        {isInForce ? (
          <>
            {' '}
            {document.voided && '· in force '}since {date(shown.inForceFrom ?? shown.at)}
            {document.voided && ` until ${date(document.voided.at)}`}
            {!isPast &&
              !document.voided &&
              (document.limited
                ? ' · what those see to whom it is kept'
                : ' · what everyone in the library sees')}
          </>
        ) : (
          <>
            {' '}
            ·{' '}
            {inForce ? (
              <>
                {numberWords(inForce.label)} is in force since {date(inForce.inForceFrom ?? inForce.at)}
              </>
            ) : (
              'nothing is in force'
            )}
          </>
        )}
      </span>
      <span className="acts">
        {document.acts.restore.allowed && shown.id !== latest.id && !shown.thinned && (
          <button type="button" className="quiet" onClick={onRestore}>
            Restore {numberWords(shown.label)}
            {document.toCome?.minor && ` as ${document.toCome.minor}`}
          </button>
        )}
        <NoRestore document={document} shown={shown} />
        {inForce && !isInForce && shown.id !== latest.id && !shown.thinned && (
          <button type="button" className="quiet" onClick={() => onCompare(inForce.label, shown.label)}>
            Compare with {numberWords(inForce.label)}
          </button>
        )}
        {!shown.thinned && !onlyLooks && (
          <button
            type="button"
            className="quiet"
            title="A private copy on your Desk, to be worked on without versions"
            onClick={() => void takeCopy()}
          >
            Private copy
          </button>
        )}
        {!shown.thinned && works && (
          <button
            type="button"
            className="quiet"
            title={`With ${numberWords(shown.label)} written into it, where its type can carry that`}
            onClick={() =>
              download(
                addressOf(routes.versionContent, {
                  params: { id: document.id, v: shown.label },
                  query: { marked: true },
                }),
              )
            }
          >
            Download
          </button>
        )}
        {!shown.thinned && (
          <IssuedCopy documentId={document.id} version={shown}>
            {works ? 'Issued copy' : 'Download'}
          </IssuedCopy>
        )}
        <span className="muted" title={fullTime(shown.at)}>
          {shown.author.name}
        </span>
      </span>
    </div>
  );
}
