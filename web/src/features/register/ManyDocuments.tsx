import type { Library } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { Button, Input, Select } from 'antd';
import { useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { DateField } from '../../ui/dates.tsx';
import { bytes } from '../../ui/when.ts';
import { titleOf } from '../../parts/titleOf.ts';
import { useUploads } from '../../app/uploads.ts';

/**
 * Many files dropped at once: one form for what they share, a title each. They are registered one after
 * another.
 */
export function ManyDocuments({
  library,
  files,
  onLeave,
}: {
  library: Library;
  files: File[];
  onLeave: () => void;
}) {
  const client = useQueryClient();
  const { running, start } = useUploads();
  const [titles, setTitles] = useState(() => files.map(({ name }) => titleOf(name) || name));
  const [type, setType] = useState('');
  const [subject, setSubject] = useState<string[]>([]);
  const [reviewBy, setReviewBy] = useState<string | null>(null);
  const [comment, setComment] = useState('');
  useHotkeys('escape', onLeave, { enableOnFormTags: true });
  const missing = titles.some((title) => title.trim() === '');
  const register = (): void => {
    void start(
      { library, client },
      files.map((file, index) => ({ file, title: titles[index] ?? file.name })),
      {
        comment,
        ...(type ? { type } : {}),
        ...(subject.length > 0 ? { subject } : {}),
        ...(reviewBy ? { reviewBy } : {}),
      },
    );
    onLeave();
  };
  return (
    <section className="new-document many-documents" aria-label="New documents">
      <ol>
        {files.map((file, index) => (
          <li key={`${index} ${file.name}`}>
            <Input
              aria-label={`Title of ${file.name}`}
              value={titles[index] ?? ''}
              maxLength={300}
              onChange={(event) =>
                setTitles(titles.map((title, at) => (at === index ? event.target.value : title)))
              }
            />
            <span className="muted">
              {file.name} · {bytes(file.size)}
            </span>
          </li>
        ))}
      </ol>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          register();
        }}
      >
        <h2>For all of them</h2>
        <div className="form-line">
          <label>
            Type <Input value={type} maxLength={60} onChange={(event) => setType(event.target.value)} />
          </label>
          <label>
            Subject{' '}
            <Select
              aria-label="Subject"
              mode="tags"
              open={false}
              suffixIcon={null}
              placeholder="press Enter after each"
              value={subject}
              onChange={setSubject}
            />
          </label>
          <label>
            Review by <DateField name="Review by" value={reviewBy} onChange={setReviewBy} />
          </label>
        </div>
        <label>
          Comment{' '}
          <Input
            value={comment}
            maxLength={4000}
            placeholder="First version"
            onChange={(event) => setComment(event.target.value)}
          />
        </label>
        <div className="acts">
          <Button htmlType="submit" type="primary" disabled={missing || running}>
            Register {files.length} documents
          </Button>
          <button type="button" className="quiet" onClick={onLeave}>
            Not now
          </button>
          {running && <span className="muted">Others are still on their way.</span>}
        </div>
      </form>
    </section>
  );
}
