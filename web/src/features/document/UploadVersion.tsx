import { type Document, routes } from '@polychron/contract';
import type { Level } from '@polychron/core';
import { useQueryClient } from '@tanstack/react-query';
import { App, Button, Input, Popover } from 'antd';
import { useState } from 'react';
import { Question } from '../../parts/checkIn/Question.tsx';
import { madeWords, useCheckInFlow, waysOf } from '../../parts/checkIn/useCheckInFlow.ts';
import { refreshDocument } from '../../parts/queries.ts';
import { upload } from '../../ui/api.ts';
import '../../parts/checkIn/checkIn.css';

/**
 * A new version without a check-out, where the library allows it: the file, a comment, and the number it
 * becomes.
 */
export function UploadVersion({ document }: { document: Document }) {
  const client = useQueryClient();
  const { message } = App.useApp();
  const [open, setOpen] = useState(false);
  const [file, setFile] = useState<File | null>(null);
  const [comment, setComment] = useState('');
  const { toCome, latest } = document;
  const flow = useCheckInFlow(async (level: Level, confirm: string[]) => {
    if (!file) return;
    const fields = { basedOn: latest.id, comment, level, confirm: confirm.join(',') };
    const made = await upload(routes.uploadVersion, { id: document.id }, { file, fields }).done;
    void message.success(`${document.number} is checked in as ${made.label}${madeWords(made)}.`);
    setOpen(false);
    setFile(null);
    setComment('');
    await refreshDocument(client, document.id);
  });
  if (!toCome) return null;
  const ready = file !== null && (!toCome.commentRequired || comment.trim() !== '');
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      open={open}
      onOpenChange={setOpen}
      content={
        <div className="landing" role="group" aria-label="Upload a version">
          <p className="landing-file">
            {file ? file.name : 'No file yet'}{' '}
            <label className="quiet">
              {file ? 'another file' : 'choose the file'}
              <input
                type="file"
                className="unseen"
                onChange={(event) => {
                  setFile(event.target.files?.[0] ?? null);
                  flow.say(null);
                  event.target.value = '';
                }}
              />
            </label>
          </p>
          <Input
            value={comment}
            aria-label="Comment"
            placeholder={toCome.commentRequired ? 'What changed? (needed)' : 'What changed?'}
            onChange={(event) => setComment(event.target.value)}
          />
          <p className="muted">
            Based on {latest.label}. If somebody has changed it meanwhile nothing is stored, and both versions
            are named.
          </p>
          <Question flow={flow} />
          {!flow.question && (
            <div className="acts">
              {waysOf(toCome).map(({ level, words }, index) => (
                <Button
                  key={level}
                  type={index === 0 ? 'primary' : 'default'}
                  disabled={!ready}
                  loading={flow.busy}
                  onClick={() => void flow.send(level)}
                >
                  {words}
                </Button>
              ))}
            </div>
          )}
        </div>
      }
    >
      <Button>Upload a version</Button>
    </Popover>
  );
}
