import { routes, type Document } from '@polychron/contract';
import { isCheckInQuestion } from '@polychron/core';
import { useQueryClient } from '@tanstack/react-query';
import { App, Button, Input, Popover } from 'antd';
import { useState } from 'react';
import { ProblemError, upload } from '../../shared/api.ts';
import { refreshDocument } from '../../shared/queries.ts';
import { Refusal } from '../../shared/Refusal.tsx';

/** A new version without a check-out, where the library allows it: the file, a comment, and the number it becomes. */
export function UploadVersion({ document }: { document: Document }) {
  const client = useQueryClient();
  const { message } = App.useApp();
  const [open, setOpen] = useState(false);
  const [file, setFile] = useState<File | null>(null);
  const [comment, setComment] = useState('');
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const [answered, setAnswered] = useState<{ level: 'minor' | 'major'; confirm: string[] }>({ level: 'minor', confirm: [] });
  const { toCome, latest } = document;
  if (!toCome) return null;
  const question = error instanceof ProblemError && isCheckInQuestion(error.problem.code) ? error.problem.code : null;
  const send = async (level: 'minor' | 'major', confirm: string[] = []): Promise<void> => {
    if (!file) return;
    setBusy(true);
    setError(null);
    try {
      const made = await upload(routes.uploadVersion, { id: document.id }, { file, fields: { basedOn: latest.id, comment, level, confirm: confirm.join(',') } }).done;
      void message.success(`${document.number} ${made.label} is ${made.standing === 'inForce' ? 'in force' : made.state === 'inApproval' ? 'submitted' : 'uploaded'}.`);
      setOpen(false);
      setFile(null);
      setComment('');
      await refreshDocument(client, document.id);
    } catch (refusal) { setError(refusal); } finally { setBusy(false); }
  };
  const ready = file !== null && (!toCome.commentRequired || comment.trim() !== '');
  const go = (level: 'minor' | 'major', confirm: string[] = []): void => { setAnswered({ level, confirm }); void send(level, confirm); };
  return (
    <Popover trigger="click" placement="bottomRight" open={open} onOpenChange={setOpen} content={(
      <div className="landing" role="group" aria-label="Upload a version">
        <p className="landing-file">{file ? file.name : 'No file yet'} <label className="quiet">{file ? 'another file' : 'choose the file'}<input type="file" className="unseen" onChange={(event) => { setFile(event.target.files?.[0] ?? null); setError(null); event.target.value = ''; }} /></label></p>
        <Input value={comment} aria-label="Comment" placeholder={toCome.commentRequired ? 'What changed? (needed)' : 'What changed?'} onChange={(event) => setComment(event.target.value)} />
        <p className="muted">Based on {latest.label}. If somebody has changed it meanwhile nothing is stored, and both versions are named.</p>
        <Refusal error={error} />
        <div className="acts">
          {question ? <Button onClick={() => go(answered.level, [...answered.confirm, question])}>Yes, take it</Button> : (
            <>
              {toCome.minor && <Button type="primary" disabled={!ready} loading={busy} onClick={() => go('minor')}>Become {toCome.minor}</Button>}
              <Button type={toCome.minor ? 'default' : 'primary'} disabled={!ready} loading={busy} onClick={() => go('major')}>{toCome.submittedAs ? `Submit ${toCome.submittedAs}` : `Become ${toCome.major}, in force`}</Button>
            </>
          )}
        </div>
      </div>
    )}>
      <Button>Upload a version</Button>
    </Popover>
  );
}
