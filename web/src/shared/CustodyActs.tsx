import { type Custody, routes, type Document } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { App, Button, Progress } from 'antd';
import { useRef, useState } from 'react';
import { useLibrary } from '../frame/useLibrary.ts';
import { addressOf, call, download, upload, type Upload } from './api.ts';
import { Consequences } from './Consequences.tsx';
import { CustodySentence } from './CustodySentence.tsx';
import { refreshDocument } from './queries.ts';
import { Refusal } from './Refusal.tsx';
import { bytes, dayTime } from './when.ts';

/** Custody of a document and what can be done about it: putting the edited file back, downloading it again, discarding. */
export function CustodyActs({ document, onCheckOut, busy }: { document: Document; onCheckOut: () => void; busy: boolean }) {
  const { custody, acts, toCome } = document;
  if (!custody) {
    return (
      <div className="custody-acts">
        <p>Nobody holds it.</p>
        {acts.checkOut.allowed
          ? <Button loading={busy} onClick={onCheckOut}>Check out {document.latest.label}</Button>
          : <p className="muted">{acts.checkOut.why}</p>}
      </div>
    );
  }
  return (
    <div className="custody-acts">
      <p><CustodySentence custody={custody} /></p>
      {custody.reason && <p className="muted">“{custody.reason}”</p>}
      {custody.mine && toCome
        ? <Mine document={document} custody={custody} />
        : custody.saves > 0 && custody.lastSavedAt && <p className="muted">{saves(custody.saves)}, the last {dayTime(custody.lastSavedAt)}</p>}
    </div>
  );
}

const saves = (count: number): string => `${count} ${count === 1 ? 'save' : 'saves'}`;

function Mine({ document, custody }: { document: Document; custody: NonNullable<Document['custody']> }) {
  const client = useQueryClient();
  const { message } = App.useApp();
  const [share, setShare] = useState<number | null>(null);
  const [error, setError] = useState<unknown>(null);
  const [discarding, setDiscarding] = useState(false);
  const [over, setOver] = useState(false);
  const sending = useRef<Upload<Custody> | null>(null);
  const makesDrafts = useLibrary()?.rules.saves === 'drafts';
  const { toCome } = document;

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
          <button type="button" className="quiet" onClick={() => download(addressOf(routes.workingCopy, { params: { id: document.id } }))}>Download the working copy</button>
          <button type="button" className="quiet" onClick={askOrDiscard}>Discard the check-out</button>
        </div>
      )}
    </>
  );
}
