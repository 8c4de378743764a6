import { routes, type Version } from '@polychron/contract';
import { isCheckInQuestion, type Level } from '@polychron/core';
import { useQueryClient } from '@tanstack/react-query';
import { App, Button, Checkbox, Input, Progress, type InputRef } from 'antd';
import { useEffect, useRef, useState } from 'react';
import { ProblemError, sentenceOf, upload, type Upload } from '../api.ts';
import { refreshDocument } from '../queries.ts';
import { dayTime } from '../when.ts';
import type { Landing } from './Ghosts.tsx';

interface Props { landing: Landing; label: string; level: Level; file: File | null; onLeave: () => void }

/** The label of a version about to land: its number, its comment, Enter. Nothing is sent before that. */
export function LandingLabel({ landing, label, level, file: dropped, onLeave }: Props) {
  const client = useQueryClient();
  const { message } = App.useApp();
  const [file, setFile] = useState(dropped);
  const [comment, setComment] = useState('');
  const [keep, setKeep] = useState(false);
  const [newName, setNewName] = useState(false);
  const [share, setShare] = useState<number | null>(null);
  const [problem, setProblem] = useState<unknown>(null);
  const [confirmed, setConfirmed] = useState<string[]>([]);
  const sending = useRef<Upload<Version> | null>(null);
  const field = useRef<InputRef>(null);
  useEffect(() => { field.current?.focus(); }, []);
  // Leaving the label while it is sending cancels the sending; what was typed before is still in the field.
  useEffect(() => () => sending.current?.cancel(), []);

  const givenName = file?.name ?? landing.workingCopy?.fileName ?? landing.registeredName;
  const otherName = givenName !== landing.registeredName;
  const submits = level === 'major' && landing.submittedAs !== null;
  const outcome = submits && landing.submittedAs !== label ? `Submit ${landing.submittedAs}, to become ${label}` : submits ? `Submit ${label}` : `Become ${label}`;
  // Another name is asked about beside the file, before anything is sent.
  const question = problem instanceof ProblemError && isCheckInQuestion(problem.problem.code) && problem.problem.code !== 'other-name' ? problem.problem : null;

  const land = async (keepCheckedOut: boolean, confirm: string[] = confirmed): Promise<void> => {
    if (landing.commentRequired && comment.trim() === '') { field.current?.focus(); setProblem(new Error('comment')); return; }
    setProblem(null);
    setShare(0);
    sending.current = upload(routes.checkIn, { id: landing.documentId }, {
      file,
      fields: { comment, level, keepCheckedOut: String(keepCheckedOut), keepFileName: String(!newName), confirm: [...confirm, ...(newName ? ['other-name'] : [])].join(',') },
    }, setShare);
    try {
      const version = await sending.current.done;
      sending.current = null;
      void message.success(`${landing.number} is checked in as ${version.label}${version.standing === 'inForce' ? ' and in force' : version.state === 'inApproval' ? ' and waits for its approvers' : ''}.`);
      onLeave();
      await refreshDocument(client, landing.documentId);
    } catch (refusal) {
      sending.current = null;
      setShare(null);
      setProblem(refusal);
    }
  };
  const answerYes = (code: string): void => {
    const confirm = [...confirmed, code];
    setConfirmed(confirm);
    void land(keep, confirm);
  };

  return (
    <form className="landing" aria-label={`Check in as ${label}`} onSubmit={(event) => { event.preventDefault(); void land(keep); }}
      onKeyDown={(event) => { if (event.key === 'Escape') onLeave(); if (event.key === 'Enter' && event.altKey) { event.preventDefault(); void land(true); } }}>
      <div className="landing-head">
        <span className={`number landing-number ${level === 'major' ? 'number-published' : 'number-draft'}`}>{label}</span>
        <span>{level === 'minor' ? 'a draft' : submits ? `once its approvers agree${landing.submittedAs === label ? '' : `; until then ${landing.submittedAs}`}` : 'published, in force at once'}</span>
      </div>
      <Input ref={field} value={comment} disabled={share !== null} aria-label="Check-in comment" placeholder={landing.commentRequired ? 'What changed? (needed)' : 'What changed?'}
        status={problem instanceof Error && problem.message === 'comment' ? 'error' : ''} onChange={(event) => setComment(event.target.value)} />
      <div className="landing-file">
        {file ? <>{file.name}</> : landing.workingCopy
          ? <>the working copy{landing.workingCopy.savedAt ? `, saved ${dayTime(landing.workingCopy.savedAt)}` : ''}</>
          : <>no edited file yet</>}
        <label className="quiet">{file || landing.workingCopy ? 'another file' : 'choose the file'}
          <input type="file" className="unseen" disabled={share !== null} onChange={(event) => { setFile(event.target.files?.[0] ?? null); setConfirmed([]); setProblem(null); }} />
        </label>
      </div>
      {otherName && (
        <Checkbox checked={newName} disabled={share !== null} onChange={(event) => setNewName(event.target.checked)}>
          take the new name, not {landing.registeredName}
        </Checkbox>
      )}
      {!submits && <Checkbox checked={keep} disabled={share !== null} onChange={(event) => setKeep(event.target.checked)}>keep it checked out</Checkbox>}
      {question ? (
        <div className="refusal" role="alert">
          <span>{question.detail}</span>
          <Button size="small" onClick={() => answerYes(question.code)}>Yes, check in as {label}</Button>
        </div>
      ) : problem ? <div className="refusal" role="alert">{problem instanceof Error && problem.message === 'comment' ? 'Say in a sentence what changed.' : sentenceOf(problem)}</div> : null}
      {share !== null && <Progress percent={Math.round(share * 100)} size="small" showInfo={false} aria-label="Upload" />}
      <div className="acts">
        <Button htmlType="submit" type="primary" loading={share !== null}>{outcome}</Button>
        {share === null ? <button type="button" className="quiet" onClick={onLeave}>Not yet</button>
          : <button type="button" className="quiet" onClick={() => sending.current?.cancel()}>Cancel</button>}
        <span className="keys">Enter{submits ? '' : ' · Alt+Enter keeps it yours'}</span>
      </div>
    </form>
  );
}
