import { numberWords } from '@polychron/core';
import { type DeskFile, type Document, type Merge, routes } from '@polychron/contract';
import type { Level } from '@polychron/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Checkbox, Input } from 'antd';
import { useRef, useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router-dom';
import { Nowhere } from '../../ui/Nowhere.tsx';
import { Consequences } from '../../ui/Consequences.tsx';
import { addressOf, call, ProblemError } from '../../ui/api.ts';
import { deskFileQuery, documentQuery, mergeQuery, refreshDocument } from '../../parts/queries.ts';
import { Question } from '../../parts/checkIn/Question.tsx';
import { madeWords, sayMade, useCheckInFlow, waysOf } from '../../parts/checkIn/useCheckInFlow.ts';
import { type Choices, openIn, type PictureOf, Regions } from '../../parts/merging/Regions.tsx';
import { Refusal } from '../../ui/Refusal.tsx';
import { dayTime } from '../../ui/when.ts';
import { Target } from './Target.tsx';
import { Waiting } from '../../ui/Waiting.tsx';
import { Word } from '../../ui/Word.tsx';
import { useMessages } from '../../ui/messages.tsx';
import './bringIn.css';
import { forget, useUnfinished } from '../../ui/unfinished.ts';

/**
 * Bringing a file from the Desk into a document, laid over what happened there since it was taken; or
 * registering it as a new one.
 */
export function BringInPage() {
  const { id = '' } = useParams();
  const [search, setSearch] = useSearchParams();
  const { data: file, error } = useQuery(deskFileQuery(id));
  if (error) return <Nowhere error={error} />;
  if (!file) return <Waiting screen />;
  const documentId = search.get('document') ?? file.document?.id;
  return (
    <main className="bring-in">
      <header className="document-head">
        <h1>
          <Word of="Bring in" /> {file.fileName}
        </h1>
        <Link to="/desk">Back to the Desk</Link>
      </header>
      <p className="lead">
        <Whence file={file} />
      </p>
      {documentId && documentId !== 'none' ? (
        <Landing
          key={documentId}
          file={file}
          documentId={documentId}
          asked={search.get('document') ?? undefined}
          onOther={() => setSearch({ document: 'none' })}
        />
      ) : (
        <Target file={file} onDocument={(document) => setSearch({ document })} />
      )}
    </main>
  );
}

function Whence({ file }: { file: DeskFile }) {
  if (file.kind === 'setAside')
    return (
      <>
        <Word of="Set aside" /> when {file.by?.name} lifted your check-out: “<bdi>{file.reason}</bdi>”. Last
        saved {dayTime(file.changedAt)}.
      </>
    );
  if (file.kind === 'looseCopy')
    return (
      <>
        A private copy
        {file.document && (
          <>
            {' '}
            of {file.document.number} {file.base}
          </>
        )}
        , last written {dayTime(file.changedAt)}.
      </>
    );
  return (
    <>
      Arrived {dayTime(file.createdAt)}.
      {file.document && (
        <>
          {' '}
          By the mark in it, it was taken from {file.document.number} {file.base}.
        </>
      )}
    </>
  );
}

function Landing({
  file,
  documentId,
  asked,
  onOther,
}: {
  file: DeskFile;
  documentId: string;
  asked: string | undefined;
  onOther: () => void;
}) {
  const { data: document, error } = useQuery(documentQuery(documentId));
  const merge = useQuery(mergeQuery(file.id, asked));
  if (error) return <Nowhere error={error} />;
  if (merge.error)
    return (
      <>
        <Refusal error={merge.error} />
        <button type="button" className="quiet" onClick={onOther}>
          Bring it into another document
        </button>
      </>
    );
  if (!document || !merge.data) return <div className="sheet sheet-waiting" aria-busy="true" />;
  // Looked at anew when somebody checks in meanwhile: choices belong to the regions they were made for.
  return (
    <Choosing key={merge.data.latest} file={file} document={document} merge={merge.data} onOther={onOther} />
  );
}

function Choosing({
  file,
  document,
  merge,
  onOther,
}: {
  file: DeskFile;
  document: Document;
  merge: Merge;
  onOther: () => void;
}) {
  // They belong to the regions they were made for.
  const form = useUnfinished<{ choices: Choices }>(
    {
      key: `combine ${file.id} ${merge.base ?? ''} ${merge.latest}`,
      words: `Bring ${file.fileName} into ${document.number}`,
    },
    { choices: {} },
  );
  const { choices } = form.value;
  // Nothing happened since it was taken, or nothing can be merged: the file goes in as it is.
  const happened = merge.base !== merge.latest && merge.format !== null;
  const [asIs, setAsIs] = useState(false);
  const open = openIn(merge.regions, choices);
  return (
    <>
      <p className="bring-in-to">
        Into{' '}
        <Link to={`/${document.library.code}/documents/${document.id}`}>
          <span className="number">{document.number}</span> <bdi>{document.title}</bdi>
        </Link>
        {merge.base && (
          <>
            {' '}
            · taken from <span className="number">{merge.base}</span>, the latest is{' '}
            <span className="number">{merge.latest}</span>
            {merge.base === merge.latest && ': nothing has changed since'}
          </>
        )}{' '}
        <button type="button" className="quiet" onClick={onOther}>
          Another document
        </button>
      </p>
      {merge.why && <p className="muted">{merge.why}</p>}
      {happened && !asIs && !merge.sameWriter && (
        <p className="muted">
          The files were written by different programs: what they say is compared. Formatting that is not
          shown here stays as in <span className="number">{merge.latest}</span>.
        </p>
      )}
      {happened && !asIs && merge.kept.length > 0 && (
        <p className="muted">
          Both changed {new Intl.ListFormat('en').format(merge.kept)}: as in{' '}
          <span className="number">{merge.latest}</span> it stays.
        </p>
      )}
      {happened && !asIs && (
        <Regions
          regions={merge.regions}
          heads={[
            <>
              As you took it (<span className="number">{merge.base}</span>)
            </>,
            <>
              As it is now (<span className="number">{merge.latest}</span>)
            </>,
            'Your copy',
          ]}
          unit={merge.format === 'docx' ? 'paragraph' : 'line'}
          pictureOf={picturesOf(file, merge)}
          choices={choices}
          onChoose={(index, choice) => form.change({ choices: { ...choices, [index]: choice } })}
        />
      )}
      <Checking
        file={file}
        document={document}
        merge={merge}
        choices={happened && !asIs ? choices : null}
        open={happened && !asIs ? open : 0}
        asIs={asIs}
        onAsIs={happened ? () => setAsIs(!asIs) : null}
      />
    </>
  );
}

/** Where the pictures of each side are. */
function picturesOf(file: DeskFile, merge: Merge): PictureOf {
  const ofVersion =
    (v: string) =>
    (part: string): string =>
      addressOf(routes.versionPicture, { params: { id: merge.document.id, v, part } });
  return {
    base: ofVersion(merge.base),
    present: ofVersion(merge.latest),
    mine: (part) => addressOf(routes.deskFilePicture, { params: { id: file.id, part } }),
  };
}

interface CheckingProps {
  file: DeskFile;
  document: Document;
  merge: Merge;
  choices: Choices | null;
  open: number;
  asIs: boolean;
  onAsIs: (() => void) | null;
}

/** The comment and the number it becomes. */
function Checking({ file, document, merge, choices, open, asIs, onAsIs }: CheckingProps) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const message = useMessages();
  const form = useUnfinished(
    { key: `bringIn ${file.id}`, words: `Bring ${file.fileName} into ${document.number}` },
    { comment: '', newName: false },
  );
  const { comment, newName } = form.value;
  const { toCome, acts } = document;
  const registeredName = document.latest.fileName;
  const bringIn = async (level: Level, confirm: string[]): Promise<void> => {
    const latest = merge.base ? { latest: merge.latest } : {};
    const name = { keepFileName: !newName, confirm: [...confirm, ...(newName ? ['other-name'] : [])] };
    const body = { document: document.id, level, comment, choices, ...name, ...latest };
    const made = await call(routes.bringIn, { params: { id: file.id }, body });
    const as = `${document.number} is checked in as ${numberWords(made.label)}${madeWords(made)}`;
    sayMade(message, `${as}. The file has left your Desk.`, made.notRead);
    form.done();
    forget(`combine ${file.id} ${merge.base ?? ''} ${merge.latest}`);
    await refreshDocument(client, document.id);
    const version = encodeURIComponent(made.label);
    void navigate(`/${document.library.code}/documents/${document.id}/versions/${version}`);
  };
  const flow = useCheckInFlow(async (level: Level, confirm: string[]) => {
    try {
      await bringIn(level, confirm);
    } catch (refusal) {
      const changed = refusal instanceof ProblemError && refusal.problem.status === 412;
      if (changed) await client.invalidateQueries({ queryKey: ['merge'] });
      throw refusal;
    }
  });
  if (document.custody?.mine) return <SaveInto file={file} document={document} />;
  if (!toCome) return <p className="refusal">{acts.checkOut.why ?? 'You may not change this document.'}</p>;
  return (
    <section className="consequences bring-in-check" aria-label="Bring in">
      <p>
        <WhatWillBe file={file} document={document} merge={merge} choices={choices} open={open} asIs={asIs} />
      </p>
      <Input
        dir="auto"
        value={comment}
        maxLength={4000}
        aria-label="Check-in comment"
        placeholder={toCome.commentRequired ? 'What changed? (needed)' : 'What changed?'}
        onChange={(event) => form.change({ comment: event.target.value })}
      />
      {file.fileName !== registeredName && (
        <Checkbox checked={newName} onChange={(event) => form.change({ newName: event.target.checked })}>
          take the new name, not {registeredName}
        </Checkbox>
      )}
      <div className="acts">
        {!flow.question &&
          waysOf(toCome).map(({ level, words: outcome }, index) => (
            <Button
              key={level}
              type={index === 0 ? 'primary' : 'default'}
              loading={flow.busy}
              disabled={open > 0}
              onClick={() => void flow.send(level)}
            >
              {outcome}
            </Button>
          ))}
        {onAsIs && (
          <button type="button" className="quiet" onClick={onAsIs}>
            {asIs ? 'Combine with what changed' : 'Use my file alone'}
          </button>
        )}
      </div>
      <Question flow={flow} />
    </section>
  );
}

/** A file for a document one holds oneself: it becomes the working copy, and no version yet. */
function SaveInto({ file, document }: Pick<CheckingProps, 'file' | 'document'>) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const message = useMessages();
  const saved = useRef(false);
  const save = async (): Promise<void> => {
    await call(routes.saveFromDesk, { params: { id: file.id }, body: { document: document.id } });
    void message.success(`${file.fileName} is the working copy of ${document.number}.`);
    await refreshDocument(client, document.id);
    saved.current = true;
  };
  const leave = (): void =>
    void navigate(saved.current ? `/${document.library.code}/documents/${document.id}` : '/desk');
  return (
    <Consequences
      outcomes={[{ label: `Save it in ${document.number}`, act: save, primary: true }]}
      onLeave={leave}
    >
      You hold {document.number}. {file.fileName} becomes your working copy; what you saved before stays among
      its steps. It leaves your Desk, and becomes a version when you check in.
    </Consequences>
  );
}

function WhatWillBe({ file, document, merge, choices, open, asIs }: Omit<CheckingProps, 'onAsIs'>) {
  const { custody, number } = document;
  if (open > 0) return <>{open === 1 ? '1 conflict needs' : `${open} conflicts need`} your choice.</>;
  if (custody) {
    return (
      <>
        {custody.holder.name} holds {number}; it can be brought in once it is free.
      </>
    );
  }
  if (choices) return <>The new version holds both sides as chosen. {file.fileName} leaves your Desk.</>;
  return (
    <>
      The file becomes the next version as it is
      {asIs && <>; what came after {merge.base} is not in it</>}. It leaves your Desk.
    </>
  );
}
