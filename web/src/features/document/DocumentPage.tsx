import { routes, type Document, type Version } from '@polychron/contract';
import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query';
import { Button } from 'antd';
import { useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { useNavigate, useParams } from 'react-router-dom';
import { Nowhere } from '../../frame/Nowhere.tsx';
import { addressOf, call, download } from '../../shared/api.ts';
import { Consequences } from '../../shared/Consequences.tsx';
import { landingOf } from '../../shared/landing.ts';
import { documentQuery, readingQuery, refreshDocument, versionsQuery } from '../../shared/queries.ts';
import { Sheets } from '../../shared/reading/Sheets.tsx';
import { Refusal } from '../../shared/Refusal.tsx';
import { RestoreConsequences } from '../../shared/RestoreConsequences.tsx';
import { Strand } from '../../shared/strand/Strand.tsx';
import { useCheckOut } from '../../shared/useCheckOut.ts';
import { stateWords } from '../../shared/VersionNumber.tsx';
import { date, fullTime } from '../../shared/when.ts';
import { Facts } from './Facts.tsx';

type Asking = { kind: 'publish' } | { kind: 'restore'; version: Version } | null;

/** One document: its Strand, one version as it reads, its facts and versions. */
export function DocumentPage() {
  const { code = '', id = '', label } = useParams();
  const navigate = useNavigate();
  const { data: document, error } = useQuery({ ...documentQuery(id) });
  const list = useInfiniteQuery(versionsQuery(id));
  const { checkOut, busy } = useCheckOut();
  const [asking, setAsking] = useState<Asking>(null);
  const versions = list.data?.pages.flatMap((page) => page.items) ?? [];
  const shown = document && (label === undefined ? document.inForce ?? document.latest : versions.find((version) => version.label === label));
  const address = `/${code}/documents/${id}`;
  const choose = (chosen: string): void => void navigate(`${address}/versions/${encodeURIComponent(chosen)}`, { replace: label !== undefined });
  const compare = (from: string, to: string): void => void navigate(`${address}/compare/${encodeURIComponent(from)}/${encodeURIComponent(to)}`);

  useHotkeys('o', () => { if (document?.acts.checkOut.allowed) void checkOut(document); });
  useHotkeys('v', () => { if (document?.inForce && document.inForce.id !== document.latest.id) compare(document.inForce.label, document.latest.label); });
  useHotkeys('i', () => focusGhost());

  if (error) return <Nowhere error={error} />;
  if (list.error) return <Nowhere error={list.error} />;
  if (!document) return null;
  if (!shown && list.data && label !== undefined && !list.hasNextPage) return <Nowhere error={new Error(`${document.number} has no version ${label} that you may see`)} />;
  return (
    <main className="document">
      <header className="document-head">
        <span className="number doc-number">{document.number}</span>
        <h1>{document.title}</h1>
        <DocumentActs document={document} busy={busy === id} onCheckOut={() => void checkOut(document)} onPublish={() => setAsking({ kind: 'publish' })} onCompare={compare} />
      </header>
      <Strand document={document} versions={[...versions].reverse()} size="large" chosen={shown?.label} onChoose={choose} onCompare={compare} landing={landingOf(document)} />
      {asking?.kind === 'publish' && <PublishConsequences document={document} onLeave={() => setAsking(null)} onDone={() => void navigate(address)} />}
      {asking?.kind === 'restore' && <RestoreConsequences document={document} version={asking.version} onLeave={() => setAsking(null)} onDone={(made) => choose(made.label)} />}
      <div className="document-body">
        <section className="reading" aria-label="Text">
          {shown && <VersionFrame document={document} shown={shown} onRestore={() => setAsking({ kind: 'restore', version: shown })} onCompare={compare} />}
          {shown && <ReadingOf documentId={id} version={shown} />}
        </section>
        <Facts document={document} versions={versions} shown={shown} address={address} busy={busy === id} onCheckOut={() => void checkOut(document)} onCompare={compare}
          hasMore={list.hasNextPage} onMore={() => void list.fetchNextPage()} />
      </div>
    </main>
  );
}

/** Leads to the first place where the held document may land. */
function focusGhost(): void {
  document.querySelector<HTMLButtonElement>('.document .ghost')?.click();
}

interface ActsProps { document: Document; busy: boolean; onCheckOut: () => void; onPublish: () => void; onCompare: (from: string, to: string) => void }

function DocumentActs({ document, busy, onCheckOut, onPublish, onCompare }: ActsProps) {
  const { inForce, latest, acts, toCome } = document;
  return (
    <div className="acts">
      {inForce && inForce.id !== latest.id && <Button onClick={() => onCompare(inForce.label, latest.label)}>Compare {latest.label} with {inForce.label} <kbd>v</kbd></Button>}
      {acts.publish.allowed && toCome && <Button onClick={onPublish}>Publish {latest.label} as {toCome.major}</Button>}
      {acts.checkIn.allowed && <Button type="primary" onClick={focusGhost}>Check in <kbd>i</kbd></Button>}
      {acts.checkOut.allowed && <Button type="primary" loading={busy} onClick={onCheckOut}>Check out <kbd>o</kbd></Button>}
    </div>
  );
}

function PublishConsequences({ document, onLeave, onDone }: { document: Document; onLeave: () => void; onDone: () => void }) {
  const client = useQueryClient();
  const { latest, inForce, toCome, seenBy } = document;
  if (!toCome) return null;
  const publish = async (comment: string): Promise<void> => {
    await call(routes.publish, { params: { id: document.id }, body: { version: latest.label, comment } });
    await refreshDocument(client, document.id);
    onDone();
  };
  const members = seenBy ? `${Math.max(seenBy.inForce, seenBy.latest)} members` : 'All members';
  return (
    <Consequences outcomes={[{ label: `Publish ${latest.label} as ${toCome.major}`, act: publish, primary: true }]} commentHint={`What is new? (${latest.comment})`} onLeave={onLeave}>
      {inForce ? `Readers will see ${toCome.major} instead of ${inForce.label} from now; ${inForce.label} is superseded and stays.` : `${members} will see ${toCome.major} from now; nothing was in force before.`} The drafts stay.
    </Consequences>
  );
}

/** What the version shown is, and what is in force; a past version says so. */
function VersionFrame({ document, shown, onRestore, onCompare }: { document: Document; shown: Version; onRestore: () => void; onCompare: (from: string, to: string) => void }) {
  const { inForce, latest } = document;
  const isInForce = inForce?.id === shown.id;
  const past = !isInForce && shown.id !== latest.id;
  return (
    <div className={`version-frame ${isInForce ? 'in' : past ? 'past' : 'draft'}`}>
      <span>
        <strong>{shown.label} · {stateWords(shown)}</strong>
        {isInForce ? <> since {date(shown.inForceFrom ?? shown.at)} · what everyone in the library sees</> : <> · {inForce ? <>{inForce.label} is in force since {date(inForce.inForceFrom ?? inForce.at)}</> : 'nothing is in force'}</>}
      </span>
      <span className="acts">
        {document.acts.restore.allowed && shown.id !== latest.id && <button type="button" className="quiet" onClick={onRestore}>Restore {shown.label}{document.toCome?.minor && ` as ${document.toCome.minor}`}</button>}
        {inForce && !isInForce && <button type="button" className="quiet" onClick={() => onCompare(inForce.label, shown.label)}>Compare with {inForce.label}</button>}
        <button type="button" className="quiet" onClick={() => download(addressOf(routes.versionContent, { params: { id: document.id, v: shown.label } }))}>Download</button>
        <span className="muted" title={fullTime(shown.at)}>{shown.author.name}</span>
      </span>
    </div>
  );
}

function ReadingOf({ documentId, version }: { documentId: string; version: Version }) {
  const { data: reading, error, isLoading } = useQuery(readingQuery(documentId, version.label));
  if (error) return <Refusal error={error} />;
  if (isLoading || !reading) return <div className="sheet sheet-waiting" aria-busy="true" />;
  return <Sheets reading={reading} picture={(part) => addressOf(routes.versionPicture, { params: { id: documentId, v: version.label, part } })} />;
}

