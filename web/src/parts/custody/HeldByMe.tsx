import { Sending } from '../Sending.tsx';
import { type Custody, routes, type Document } from '@polychron/contract';
import { canEdit, readerOf } from '@polychron/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button } from 'antd';
import dayjs from 'dayjs';
import { useRef, useState } from 'react';
import { Link } from 'react-router-dom';
import { useLibrary } from '../useLibrary.ts';
import { addressOf, call, download, upload, type Upload } from '../../ui/api.ts';
import { refreshDocument, savesQuery } from '../queries.ts';
import { MomentField } from '../../ui/dates.tsx';
import type { CustodyAsked } from './asked.ts';
import { Finishing, OpenInProgram } from './Finishing.tsx';
import { GivingBack } from './GivingBack.tsx';
import { OwnProgram } from './OwnProgram.tsx';
import { useGiveBack } from './useGiveBack.ts';
import { DropFile } from '../../ui/DropFile.tsx';
import { More } from '../../ui/More.tsx';
import { Refusal } from '../../ui/Refusal.tsx';
import { bytes, day, dayTime, fullTime, saves } from '../../ui/when.ts';
import { useMessages } from '../../ui/messages.tsx';
import { aboutDocument } from '../unfinished/about.ts';
import { useTypedInto, useUnfinished } from '../../ui/unfinished.ts';

/**
 * What the holder does with the document: edit it, save the edited file, look at the steps, keep it longer,
 * give it back.
 */
export function HeldByMe({
  document,
  custody,
  asked = null,
  finishing = true,
}: {
  document: Document;
  custody: NonNullable<Document['custody']>;
  /** Whether it asks what becomes of what a program saved. */
  finishing?: boolean;
  /** What was asked for elsewhere already. */
  asked?: CustodyAsked;
}) {
  const client = useQueryClient();
  const message = useMessages();
  const [share, setShare] = useState<number | null>(null);
  const [error, setError] = useState<unknown>(null);
  const hasTyped = useTypedInto(document.id).length > 0;
  const [givingBack, setGivingBack] = useState(asked === 'giveBack' && (custody.saves > 0 || hasTyped));
  const sending = useRef<Upload<Custody> | null>(null);
  const makesDrafts = useLibrary()?.rules.saves === 'drafts';
  const [steps, setSteps] = useState(false);
  const [keepingLonger, setKeepingLonger] = useState(false);
  const { toCome } = document;
  const address = `/${document.library.code}/documents/${document.id}`;
  const { mediaType } = document.latest;
  const editable = canEdit(mediaType, document.latest.size);
  const readable = readerOf(mediaType) !== null;

  const saveFile = async (file: File | undefined): Promise<void> => {
    if (!file) return;
    setError(null);
    setShare(0);
    sending.current = upload(routes.saveWorkingCopy, { id: document.id }, { file }, setShare);
    try {
      const { base } = await sending.current.done;
      void message.success(
        makesDrafts
          ? `${file.name} is saved as draft ${base}, and stays yours.`
          : `${file.name} is saved in your working copy. It becomes a version when you check it in.`,
      );
      await refreshDocument(client, document.id);
    } catch (refusal) {
      setError(refusal);
    } finally {
      setShare(null);
    }
  };
  const end = useGiveBack();
  const giveBack = (): Promise<void> => end(document);
  // Nothing is lost when nothing was saved or typed, so nothing is asked.
  const askOrGiveBack = (): void => {
    if (custody.saves > 0 || hasTyped) setGivingBack(true);
    else void giveBack().catch(setError);
  };

  return (
    <>
      <OpenInProgram document={document} custody={custody} />
      {finishing && custody.toFinish !== null ? (
        <Finishing document={document} custody={custody} />
      ) : (
        <p className="muted">
          {custody.workingCopy ? (
            <>
              {saves(custody.saves)}, the last {custody.lastSavedAt && dayTime(custody.lastSavedAt)} (
              {bytes(custody.workingCopy.size)})
            </>
          ) : (
            'Nothing saved yet'
          )}
          {' · checks in as '}
          {toCome?.minor && (
            <>
              <span className="number number-draft">{toCome.minor}</span> or{' '}
            </>
          )}
          <span className="number number-published">{toCome?.major}</span>
          {toCome?.submittedAs && ', once approved'}
        </p>
      )}
      <DropFile disabled={share !== null} onFiles={([file]) => void saveFile(file)}>
        Save the edited file{' '}
        <span className="muted">
          drop it here or choose it; {makesDrafts ? 'each save is a draft version' : 'it makes no version'}
        </span>
      </DropFile>
      <Sending share={share} onCancel={() => sending.current?.cancel()} />
      <Refusal error={error} onLeave={() => setError(null)} />
      {givingBack ? (
        <GivingBack document={document} custody={custody} onLeave={() => setGivingBack(false)} />
      ) : (
        <div className="acts">
          {editable && <Link to={`${address}/edit`}>Edit it here</Link>}
          <button
            type="button"
            className="quiet"
            onClick={() =>
              download(
                addressOf(routes.workingCopy, { params: { id: document.id }, query: { marked: true } }),
              )
            }
          >
            Download the working copy
          </button>
          <button type="button" className="quiet" onClick={askOrGiveBack}>
            Give back
          </button>
          <More key={asked} name="More to do while you hold it" open={asked === 'ownProgram'}>
            {custody.saves > 0 && readable && <Link to={`${address}/so-far`}>What has changed so far</Link>}
            {custody.saves > 0 && (
              <button type="button" className="quiet" aria-expanded={steps} onClick={() => setSteps(!steps)}>
                Saves
              </button>
            )}
            <button type="button" className="quiet" onClick={() => setKeepingLonger(!keepingLonger)}>
              Keep it longer
            </button>
            <OwnProgram document={document} asked={asked === 'ownProgram'} />
          </More>
        </div>
      )}
      {keepingLonger && (
        <KeepLonger document={document} custody={custody} onLeave={() => setKeepingLonger(false)} />
      )}
      {steps && custody.saves > 0 && <Steps document={document} />}
    </>
  );
}

/** Moves the end of one's own check-out. */
function KeepLonger({
  document,
  custody,
  onLeave,
}: {
  document: Document;
  custody: Custody;
  onLeave: () => void;
}) {
  const client = useQueryClient();
  // Five more days, counted from now where the end is past.
  const [proposed] = useState(() =>
    dayjs(custody.overdue ? undefined : (custody.until ?? undefined))
      .add(5, 'day')
      .toISOString(),
  );
  const form = useUnfinished<{ until: string | null }>(
    aboutDocument(document, 'keepLonger', 'Keep it checked out longer'),
    { until: proposed },
  );
  const { until } = form.value;
  const [error, setError] = useState<unknown>(null);
  const prolong = async (): Promise<void> => {
    if (until === null) return;
    try {
      await call(routes.prolong, {
        params: { id: document.id },
        body: { until },
      });
      form.done();
      onLeave();
      await refreshDocument(client, document.id);
    } catch (refusal) {
      setError(refusal);
    }
  };
  return (
    <form
      className="small-form"
      aria-label="Keep it longer"
      onSubmit={(event) => {
        event.preventDefault();
        void prolong();
      }}
    >
      <label className="moment">
        hold it until{' '}
        <MomentField name="Until" value={until} onChange={(chosen) => form.change({ until: chosen })} />
      </label>
      <div className="acts">
        <Button htmlType="submit" size="small" disabled={until === null}>
          Hold it until {until && day(until)}
        </Button>
        <button type="button" className="quiet" onClick={onLeave}>
          Cancel
        </button>
      </div>
      <Refusal error={error} onLeave={() => setError(null)} />
    </form>
  );
}

/** The saves of the working copy, newest first: each can be downloaded, and made the working copy again. */
function Steps({ document }: { document: Document }) {
  const client = useQueryClient();
  const { data, error } = useQuery(savesQuery(document.id));
  const [refused, setRefused] = useState<unknown>(null);
  const items = [...(data?.items ?? [])].reverse();
  const goBack = async (position: number): Promise<void> => {
    try {
      await call(routes.goBackToSave, { params: { id: document.id, position } });
      await refreshDocument(client, document.id);
    } catch (refusal) {
      setRefused(refusal);
    }
  };
  return (
    <>
      <Refusal error={error ?? refused} onLeave={() => setRefused(null)} />
      <ol className="steps" aria-label="Saves of the working copy" reversed>
        {items.map((save, index) => (
          <li key={save.position}>
            <span title={fullTime(save.at)}>{dayTime(save.at)}</span>{' '}
            <span className="muted">{bytes(save.size)}</span>
            <span className="acts">
              <button
                type="button"
                className="quiet"
                onClick={() =>
                  download(
                    addressOf(routes.readSave, { params: { id: document.id, position: save.position } }),
                  )
                }
              >
                Download
              </button>
              {index === 0 ? (
                <span className="muted">now</span>
              ) : (
                <button type="button" className="quiet" onClick={() => void goBack(save.position)}>
                  Go back to it
                </button>
              )}
            </span>
          </li>
        ))}
      </ol>
    </>
  );
}
