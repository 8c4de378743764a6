import { PlaceInQueue } from '../PlaceInQueue.tsx';
import { routes, type Version } from '@polychron/contract';
import type { Level } from '@polychron/core';
import { useQueryClient } from '@tanstack/react-query';
import { App, Button, Checkbox, Input, type InputRef, Progress } from 'antd';
import { useEffect, useRef, useState } from 'react';
import { upload, type Upload } from '../../ui/api.ts';
import { dayTime } from '../../ui/when.ts';
import { refreshDocument } from '../queries.ts';
import type { Landing } from './Ghosts.tsx';
import { Question } from './Question.tsx';
import { madeWords, outcomeWords, useCheckInFlow } from './useCheckInFlow.ts';

interface Props {
  landing: Landing;
  label: string;
  level: Level;
  file: File | null;
  onLeave: () => void;
}

/** The label of a version about to land: its number, its comment, Enter. Nothing is sent before that. */
export function LandingLabel({ landing, label, level, file: dropped, onLeave }: Props) {
  const client = useQueryClient();
  const { message } = App.useApp();
  const [file, setFile] = useState(dropped);
  const [comment, setComment] = useState('');
  const [keep, setKeep] = useState(false);
  const [newName, setNewName] = useState(false);
  const [share, setShare] = useState<number | null>(null);
  const [missing, setMissing] = useState(false);
  const sending = useRef<Upload<Version> | null>(null);
  const field = useRef<InputRef>(null);
  useEffect(() => {
    field.current?.focus();
  }, []);
  // Leaving the label while it is sending cancels the sending; what was typed before is still in the field.
  useEffect(() => () => sending.current?.cancel(), []);

  const givenName = file?.name ?? landing.workingCopy?.fileName ?? landing.registeredName;
  const otherName = givenName !== landing.registeredName;
  const submits = level === 'major' && landing.submittedAs !== null;
  const busy = share !== null;
  const flow = useCheckInFlow(async (keepCheckedOut: boolean, confirm: string[]) => {
    setShare(0);
    // Another name is asked about beside the file, before anything is sent.
    const answers = [...confirm, ...(newName ? ['other-name'] : [])];
    const fields = {
      comment,
      level,
      keepCheckedOut: String(keepCheckedOut),
      keepFileName: String(!newName),
      confirm: answers.join(','),
    };
    sending.current = upload(routes.checkIn, { id: landing.documentId }, { file, fields }, setShare);
    try {
      const version = await sending.current.done;
      void message.success(`${landing.number} is checked in as ${version.label}${madeWords(version)}.`);
      onLeave();
      await refreshDocument(client, landing.documentId);
    } finally {
      sending.current = null;
      setShare(null);
    }
  });
  const land = (keepCheckedOut: boolean): void => {
    const wanting = landing.commentRequired && comment.trim() === '';
    setMissing(wanting);
    if (wanting) field.current?.focus();
    else void flow.send(keepCheckedOut);
  };

  return (
    <form
      className="landing"
      aria-label={`Check in as ${label}`}
      onSubmit={(event) => {
        event.preventDefault();
        land(keep);
      }}
      onKeyDown={(event) => {
        if (event.key === 'Escape') onLeave();
        if (event.key === 'Enter' && event.altKey) {
          event.preventDefault();
          land(true);
        }
      }}
    >
      <div className="landing-head">
        <span className={`number landing-number ${level === 'major' ? 'number-published' : 'number-draft'}`}>
          {label}
        </span>
        <span>{stateToCome(level, label, landing.submittedAs)}</span>
      </div>
      <Input
        ref={field}
        value={comment}
        disabled={busy}
        aria-label="Check-in comment"
        placeholder={landing.commentRequired ? 'What changed? (needed)' : 'What changed?'}
        status={missing ? 'error' : ''}
        onChange={(event) => setComment(event.target.value)}
      />
      <div className="landing-file">
        <FileWords file={file} landing={landing} />
        <label className="quiet">
          {file || landing.workingCopy ? 'another file' : 'choose the file'}
          <input
            type="file"
            className="unseen"
            disabled={busy}
            onChange={(event) => {
              setFile(event.target.files?.[0] ?? null);
              flow.say(null);
            }}
          />
        </label>
      </div>
      {otherName && (
        <Checkbox checked={newName} disabled={busy} onChange={(event) => setNewName(event.target.checked)}>
          take the new name, not {landing.registeredName}
        </Checkbox>
      )}
      {!submits && (
        <Checkbox checked={keep} disabled={busy} onChange={(event) => setKeep(event.target.checked)}>
          and go on working
        </Checkbox>
      )}
      {missing ? (
        <div className="refusal" role="alert">
          Say in a sentence what changed.
        </div>
      ) : (
        <Question flow={flow} />
      )}
      {busy && (
        <Progress percent={Math.round(share * 100)} size="small" showInfo={false} aria-label="Upload" />
      )}
      {share === 1 && <PlaceInQueue />}
      <div className="acts">
        <Button htmlType="submit" type="primary" loading={busy}>
          {outcomeWords(level, label, landing.submittedAs)}
        </Button>
        {busy ? (
          <button type="button" className="quiet" onClick={() => sending.current?.cancel()}>
            Cancel
          </button>
        ) : (
          <button type="button" className="quiet" onClick={onLeave}>
            Not yet
          </button>
        )}
      </div>
      <p className="keys">Enter{submits ? '' : ' · Alt+Enter: and go on working'}</p>
    </form>
  );
}

function stateToCome(level: Level, label: string, submittedAs: string | null): string {
  if (level === 'minor') return 'a draft';
  if (submittedAs === null) return 'published, in force at once';
  return `once its approvers agree${submittedAs === label ? '' : `; until then ${submittedAs}`}`;
}

function FileWords({ file, landing }: Pick<Props, 'file' | 'landing'>) {
  if (file) return <>{file.name}</>;
  const { workingCopy } = landing;
  if (!workingCopy) return <>no edited file yet</>;
  return <>the working copy{workingCopy.savedAt ? `, saved ${dayTime(workingCopy.savedAt)}` : ''}</>;
}
