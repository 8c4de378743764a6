import { type Consequences, type Document } from '@polychron/contract';
import type { Rulebook } from '@polychron/core';
import { Progress } from 'antd';
import { type ReactNode, useState } from 'react';
import { Link } from 'react-router-dom';
import { Refusal } from '../../ui/Refusal.tsx';
import { Strand } from '../../parts/strand/Strand.tsx';
import { bytes } from '../../ui/when.ts';
import { ConsequenceList, type ListName } from './ConsequenceList.tsx';
import type { Rehearsed } from './useConsequences.ts';

interface Props {
  libraryId: string;
  code: string;
  rules: Rulebook;
  rehearsed: Rehearsed;
  changed: boolean;
  documents: Document[];
  more: boolean;
  onMore: () => void;
}

/** The figures of a proposal, each opening its list, above the live Register whose points fade. */
export function WhatWouldChange({
  libraryId,
  code,
  rules,
  rehearsed,
  changed,
  documents,
  more,
  onMore,
}: Props) {
  const { consequences, progress, error, cancel } = rehearsed;
  const [open, setOpen] = useState<ListName | null>(null);
  const fading = new Set(changed ? consequences?.thinned.items.map(({ versionId }) => versionId) : []);
  return (
    <aside className="would" aria-label="What would change" aria-busy={progress !== null}>
      <h2>What would change</h2>
      <Refusal error={error} />
      {progress !== null && (
        <div className="would-progress">
          <Progress
            percent={Math.round(progress * 100)}
            size="small"
            showInfo={false}
            aria-label="Computing the consequences"
          />
          <button type="button" className="quiet" onClick={cancel}>
            Stop computing
          </button>
        </div>
      )}
      {!changed && (
        <p className="muted">
          Choose other words in the sentences: what that would do to{' '}
          {documents.length === 0 ? 'the library' : 'these documents'} is computed here before anything is
          applied.
        </p>
      )}
      {changed && consequences && (
        <Figures
          consequences={consequences}
          rules={rules}
          open={open}
          onOpen={(list) => setOpen(list === open ? null : list)}
        />
      )}
      {changed && open && consequences && (
        <ConsequenceList
          key={`${open} ${JSON.stringify(rules)}`}
          libraryId={libraryId}
          code={code}
          rules={rules}
          list={open}
          onLeave={() => setOpen(null)}
        />
      )}
      <h2>{fading.size > 0 ? 'On the Register, points that would go are fading' : 'On the Register'}</h2>
      {documents.length === 0 && <p className="why">The library has no documents yet.</p>}
      <ul className="would-register">
        {documents.map((document) => (
          <li key={document.id}>
            <Link
              to={`/${code}/documents/${document.id}`}
              className="number doc-number"
              title={document.title}
            >
              {document.number}
            </Link>
            <Strand document={document} versions={document.strand} size="small" fading={fading} />
          </li>
        ))}
      </ul>
      {more && (
        <button type="button" className="quiet" onClick={onMore}>
          More documents
        </button>
      )}
    </aside>
  );
}

function Figures({
  consequences,
  rules,
  open,
  onOpen,
}: {
  consequences: Consequences;
  rules: Rulebook;
  open: ListName | null;
  onOpen: (list: ListName) => void;
}) {
  const { thinned, sight, totals, notes, bytesKept } = consequences;
  const figure = (list: ListName, words: ReactNode): ReactNode => (
    <button type="button" className="figure" aria-expanded={open === list} onClick={() => onOpen(list)}>
      {words}
    </button>
  );
  const shifts = (list: 'gains' | 'losses', verb: string): ReactNode =>
    sight[list].map((shift) => (
      <span key={shift.account}>
        {figure(
          `${list}:${shift.account}`,
          <>
            <strong>{shift.name}</strong> {verb} sight of <strong>{many(shift.versions, 'version')}</strong>{' '}
            of {many(shift.documents, 'document')}.
          </>,
        )}{' '}
      </span>
    ));
  const quiet =
    thinned.versions === 0 &&
    sight.gains.length + sight.losses.length + totals.custody + totals.approvals + totals.numbers === 0;
  return (
    <div className="figures">
      {thinned.versions > 0 && (
        <div className="big-figures">
          <button
            type="button"
            className="big-figure"
            aria-expanded={open === 'thinned'}
            onClick={() => onOpen('thinned')}
          >
            <strong>{thinned.versions.toLocaleString('en')}</strong>
            <span>
              {thinned.versions === 1 ? 'version' : 'versions'} thinned, {rules.graceDays} days on the shelf
            </span>
          </button>
          <div>
            <strong>{bytes(thinned.bytes)}</strong>
            <span>of {bytes(bytesKept)} freed</span>
          </div>
        </div>
      )}
      <p>
        {thinned.versions === 0 && 'No content goes. '}
        {shifts('losses', 'loses')}
        {shifts('gains', 'gains')}
        {sight.gains.length + sight.losses.length === 0 && "Nobody's access changes. "}
        {totals.approvals > 0 && (
          <>
            {figure(
              'approvals',
              <>
                <strong>{many(totals.approvals, 'approval')}</strong> under way{' '}
                {totals.approvals === 1 ? 'ends' : 'end'}, {totals.approvals === 1 ? 'a draft' : 'drafts'}{' '}
                again.
              </>,
            )}{' '}
          </>
        )}
        {totals.custody > 0 && (
          <>
            {figure(
              'custody',
              <>
                <strong>{many(totals.custody, 'held document')}</strong>{' '}
                {totals.custody === 1 ? 'checks' : 'check'} in under another number.
              </>,
            )}{' '}
          </>
        )}
        {totals.numbers > 0 ? (
          <>
            {figure(
              'numbers',
              <>
                The next number of <strong>{many(totals.numbers, 'document')}</strong> changes.
              </>,
            )}
          </>
        ) : (
          'No number changes.'
        )}
        {quiet && ' Only what is done from now on follows the new rules.'}
      </p>
      {notes.length > 0 && (
        <ul className="rule-notes">
          {notes.map((note) => (
            <li key={note.code}>{note.text}</li>
          ))}
        </ul>
      )}
    </div>
  );
}

const many = (count: number, one: string): string =>
  `${count.toLocaleString('en')} ${one}${count === 1 ? '' : 's'}`;
