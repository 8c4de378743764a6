import { type Custody, routes, type Document } from '@polychron/contract';
import { canEdit, readerOf } from '@polychron/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { App, Button, Progress } from 'antd';
import dayjs from 'dayjs';
import { useRef, useState } from 'react';
import { Link } from 'react-router-dom';
import { useLibrary } from '../frame/useLibrary.ts';
import { addressOf, call, download, upload, type Upload } from './api.ts';
import { Consequences } from './Consequences.tsx';
import { refreshDocument, savesQuery } from './queries.ts';
import { Refusal } from './Refusal.tsx';
import { bytes, day, dayTime, fullTime, saves } from './when.ts';

/** What the holder does with the document: edit it, put the file back, look at the steps, prolong, discard. */
export function HeldByMe({ document, custody }: { document: Document; custody: NonNullable<Document['custody']> }) {
  const client = useQueryClient();
  const { message } = App.useApp();
  const [share, setShare] = useState<number | null>(null);
  const [error, setError] = useState<unknown>(null);
  const [discarding, setDiscarding] = useState(false);
  const [over, setOver] = useState(false);
  const sending = useRef<Upload<Custody> | null>(null);
  const makesDrafts = useLibrary()?.rules.saves === 'drafts';
  const [steps, setSteps] = useState(false);
  const [prolonging, setProlonging] = useState(false);
  const { toCome } = document;
  const address = `/${document.library.code}/documents/${document.id}`;
  const { mediaType } = document.latest;
  const editable = canEdit(mediaType, document.latest.size);
  const readable = readerOf(mediaType) !== null;

  const putBack = async (file: File | undefined): Promise<void> => {
    if (!file) return;
    setError(null);
    setShare(0);
    sending.current = upload(routes.saveWorkingCopy, { id: document.id }, { file }, setShare);
    try {
      const { base } = await sending.current.done;
      void message.success(makesDrafts ? `${file.name} is saved as draft ${base}, and stays yours.` : `${file.name} is saved in your working copy. It becomes a version when you check it in.`);
      await refreshDocument(client, document.id);
    } catch (refusal) { setError(refusal); } finally { setShare(null); }
  };
  const discard = async (): Promise<void> => {
    await call(routes.discard, { params: { id: document.id } });
    void message.success(`${document.number} is free again; it stands at ${document.latest.label} as before.`);
    await refreshDocument(client, document.id);
  };
  // Nothing is lost when nothing was saved, so nothing is asked.
  const askOrDiscard = (): void => { if (custody.saves > 0) setDiscarding(true); else void discard().catch(setError); };

  return (
    <>
      <p className="muted">
        {custody.workingCopy ? <>{saves(custody.saves)}, the last {custody.lastSavedAt && dayTime(custody.lastSavedAt)} ({bytes(custody.workingCopy.size)})</> : 'Nothing saved yet'}
        {' · checks in as '}{toCome?.minor && <><span className="number number-draft">{toCome.minor}</span> or </>}<span className="number number-published">{toCome?.major}</span>{toCome?.submittedAs && ', once approved'}
      </p>
      <label className={`put-back ${over ? 'put-back-over' : ''}`} onDragOver={(event) => { event.preventDefault(); setOver(true); }} onDragLeave={() => setOver(false)}
        onDrop={(event) => { event.preventDefault(); setOver(false); void putBack(event.dataTransfer.files[0]); }}>
        <input type="file" className="unseen" disabled={share !== null} onChange={(event) => { void putBack(event.target.files?.[0]); event.target.value = ''; }} />
        <span>Put the edited file back <span className="muted">drop it here or choose it; {makesDrafts ? 'each save is a draft version' : 'it makes no version'}</span></span>
      </label>
      {share !== null && <div className="acts"><Progress percent={Math.round(share * 100)} size="small" aria-label="Upload" /><button type="button" className="quiet" onClick={() => sending.current?.cancel()}>Cancel</button></div>}
      <Refusal error={error} onLeave={() => setError(null)} />
      {discarding ? (
        <Consequences outcomes={[{ label: `Discard ${saves(custody.saves)}`, act: discard }]} onLeave={() => setDiscarding(false)}>
          {saves(custody.saves)}, the last {custody.lastSavedAt && dayTime(custody.lastSavedAt)}, {custody.saves === 1 ? 'goes' : 'go'}. {document.number} stands at {document.latest.label} as before and is free for others.
        </Consequences>
      ) : (
        <div className="acts">
          {editable && <Link to={`${address}/edit`}>Edit it here</Link>}
          <button type="button" className="quiet" onClick={() => download(addressOf(routes.workingCopy, { params: { id: document.id }, query: { marked: true } }))}>Download the working copy</button>
          {custody.saves > 0 && readable && <Link to={`${address}/so-far`}>What has changed so far</Link>}
          {custody.saves > 0 && <button type="button" className="quiet" aria-expanded={steps} onClick={() => setSteps(!steps)}>Steps</button>}
          <button type="button" className="quiet" onClick={() => setProlonging(!prolonging)}>Prolong</button>
          <button type="button" className="quiet" onClick={askOrDiscard}>Discard the check-out</button>
        </div>
      )}
      {prolonging && <Prolong document={document} custody={custody} onLeave={() => setProlonging(false)} />}
      {steps && custody.saves > 0 && <Steps document={document} />}
    </>
  );
}

/** Moves the end of one's own check-out. */
function Prolong({ document, custody, onLeave }: { document: Document; custody: Custody; onLeave: () => void }) {
  const client = useQueryClient();
  // Five more days, counted from now where the end is past.
  const [until, setUntil] = useState(() => dayjs(custody.overdue ? undefined : custody.until ?? undefined).add(5, 'day').format('YYYY-MM-DDTHH:mm'));
  const [error, setError] = useState<unknown>(null);
  const prolong = async (): Promise<void> => {
    try {
      await call(routes.prolong, { params: { id: document.id }, body: { until: new Date(until).toISOString() } });
      await refreshDocument(client, document.id);
      onLeave();
    } catch (refusal) { setError(refusal); }
  };
  return (
    <form className="small-form" aria-label="Prolong the check-out" onSubmit={(event) => { event.preventDefault(); void prolong(); }}>
      <label className="moment">hold it until <input type="datetime-local" aria-label="Until" required value={until} onChange={(event) => setUntil(event.target.value)} /></label>
      <div className="acts"><Button htmlType="submit" size="small">Hold it until {until && day(new Date(until).toISOString())}</Button><button type="button" className="quiet" onClick={onLeave}>Not now</button></div>
      <Refusal error={error} onLeave={() => setError(null)} />
    </form>
  );
}

/** The saves of the working copy, newest first: each can be downloaded, and made the working copy again. */
function Steps({ document }: { document: Document }) {
  const client = useQueryClient();
  const { data, error } = useQuery(savesQuery(document.id));
  const [refused, setRefused] = useState<unknown>(null);
  const items = [...data?.items ?? []].reverse();
  const goBack = async (position: number): Promise<void> => {
    try { await call(routes.goBackToSave, { params: { id: document.id, position } }); await refreshDocument(client, document.id); } catch (refusal) { setRefused(refusal); }
  };
  return (
    <>
      <Refusal error={error ?? refused} onLeave={() => setRefused(null)} />
      <ol className="steps" aria-label="Steps of the working copy" reversed>
        {items.map((save, index) => (
          <li key={save.position}>
            <span title={fullTime(save.at)}>{dayTime(save.at)}</span> <span className="muted">{bytes(save.size)}</span>
            <span className="acts">
              <button type="button" className="quiet" onClick={() => download(addressOf(routes.readSave, { params: { id: document.id, position: save.position } }))}>Download</button>
              {index === 0 ? <span className="muted">now</span> : <button type="button" className="quiet" onClick={() => void goBack(save.position)}>Go back to it</button>}
            </span>
          </li>
        ))}
      </ol>
    </>
  );
}
