import { type Document, type MadeVersion, routes } from '@polychron/contract';
import { type Level, numberWords } from '@polychron/core';
import { useQueryClient } from '@tanstack/react-query';
import { Button, Input, Segmented } from 'antd';
import { useState } from 'react';
import { sentenceOf, upload } from '../../ui/api.ts';
import { useMessages } from '../../ui/messages.tsx';
import { useUnfinished } from '../../ui/unfinished.ts';
import { refreshDocument } from '../queries.ts';
import type { Meant } from './meantFor.ts';

/** A dropped file that clearly goes into a document one holds. */
export interface Returned {
  meant: Meant;
  document: Document;
}

/** Files that come back into documents one holds, each into one of its own. */
export function returnedAmong(items: readonly Meant[]): Returned[] {
  const found = items.flatMap((meant): Returned[] => {
    const [document] = meant.documents;
    return meant.clear && document?.custody?.mine && document.toCome ? [{ meant, document }] : [];
  });
  return found.filter(
    ({ document: { id } }) => found.filter(({ document }) => document.id === id).length === 1,
  );
}

/** What the version of a document is called at a level. */
const labelOf = ({ toCome }: Document, level: Level): string => {
  const minor = level === 'minor' ? toCome?.minor : null;
  return numberWords(minor ?? toCome?.submittedAs ?? toCome?.major ?? '');
};

/** Files of documents one holds are checked in together, with a comment for all or one each. */
export function Together({
  returned,
  onPlaced,
}: {
  returned: readonly Returned[];
  onPlaced: (one: Meant) => void;
}) {
  const client = useQueryClient();
  const message = useMessages();
  const key = `checkInTogether ${returned.map(({ document }) => document.id).join(' ')}`;
  const form = useUnfinished<{ comment: string; own: Record<string, string>; level: Level }>(
    { key, words: `Check in ${returned.length} files` },
    { comment: '', own: {}, level: 'minor' },
  );
  const { comment, own, level } = form.value;
  const [busy, setBusy] = useState(false);
  const [problems, setProblems] = useState<Record<string, string>>({});
  const commentOf = (id: string): string => own[id]?.trim() || comment.trim();
  const missing = returned.some(
    ({ document }) => document.toCome?.commentRequired && commentOf(document.id) === '',
  );
  const send = async (): Promise<void> => {
    setBusy(true);
    const left: Record<string, string> = {};
    const made: string[] = [];
    for (const { meant, document } of returned) {
      const { id, number } = document;
      const fields = { comment: commentOf(id), level, keepFileName: 'true', keepCheckedOut: 'false' };
      try {
        const version: MadeVersion = await upload(routes.checkIn, { id }, { file: meant.file, fields }).done;
        made.push(`${number} ${numberWords(version.label)}`);
        onPlaced(meant);
      } catch (refusal) {
        left[id] = sentenceOf(refusal);
      }
      void refreshDocument(client, id);
    }
    setProblems(left);
    setBusy(false);
    if (made.length > 0) void message.success(`Checked in: ${made.join(', ')}.`);
    if (Object.keys(left).length === 0) form.done();
  };
  const many = `${returned.length} files`;
  return (
    <form
      className="consequences together"
      aria-label={`Check in ${many}`}
      onSubmit={(event) => event.preventDefault()}
    >
      <p>You hold the documents of these files; each goes into its own.</p>
      <Segmented<Level>
        aria-label="Level"
        value={level}
        onChange={(chosen) => form.change({ level: chosen })}
        options={[
          { value: 'minor', label: 'as drafts' },
          { value: 'major', label: 'published, or submitted' },
        ]}
      />
      <Input
        dir="auto"
        value={comment}
        maxLength={4000}
        aria-label="Comment for all"
        placeholder="What changed? For all of them"
        onChange={(event) => form.change({ comment: event.target.value })}
      />
      <ul>
        {returned.map(({ meant, document }) => (
          <li key={document.id}>
            <span>
              <strong>{meant.file.name}</strong> into {document.number} <bdi>{document.title}</bdi> as{' '}
              <span className="number">{labelOf(document, level)}</span>
            </span>
            <Input
              dir="auto"
              size="small"
              value={own[document.id] ?? ''}
              maxLength={4000}
              aria-label={`Comment for ${document.number}`}
              placeholder="One of its own (optional)"
              onChange={(event) => form.change({ own: { ...own, [document.id]: event.target.value } })}
            />
            {problems[document.id] && (
              <span className="refusal" role="alert">
                {problems[document.id]}
              </span>
            )}
          </li>
        ))}
      </ul>
      <div className="acts">
        <Button type="primary" loading={busy} disabled={missing} onClick={() => void send()}>
          Check in {many} {level === 'minor' ? 'as drafts' : ''}
        </Button>
        {missing && <span className="muted">Say what changed, for all or for each.</span>}
      </div>
    </form>
  );
}
