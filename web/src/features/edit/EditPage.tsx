import { type Document, routes } from '@polychron/contract';
import { canEdit, encodingNames } from '@polychron/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Segmented } from 'antd';
import dayjs from 'dayjs';
import { useMemo, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router-dom';
import { Nowhere } from '../../ui/Nowhere.tsx';
import { PageError, call } from '../../ui/api.ts';
import { deskFileQuery, documentQuery, refreshDocument } from '../../parts/queries.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { CodeField } from './CodeField.tsx';
import { Preview } from './Preview.tsx';
import { putText, textAt } from './textFile.ts';
import { Unsent } from './Unsent.tsx';
import { type About, typedInto } from '../../ui/unfinished.ts';
import { LandingOf } from '../../parts/checkIn/LandingOf.tsx';
import { Moved } from './Moved.tsx';
import { type Autosave, type Saving, type Source, useAutosave } from './useAutosave.ts';
import { Waiting } from '../../ui/Waiting.tsx';
import './edit.css';

/** Editing the working copy of a document one holds. */
export function EditDocumentPage() {
  const { id = '' } = useParams();
  const { data: document, error } = useQuery(documentQuery(id));
  if (error) return <Nowhere error={error} />;
  if (!document) return <Waiting screen />;
  if (!canEdit(document.latest.mediaType, document.latest.size))
    return <Nowhere error={new PageError(`${document.fileName} is not a text that is edited in the page`)} />;
  return document.custody?.mine ? <WorkingCopy document={document} /> : <ReadOnly document={document} />;
}

/** Without a check-out a text is read only; checking out is one press away. */
function ReadOnly({ document }: { document: Document }) {
  const client = useQueryClient();
  const [refused, setRefused] = useState<unknown>(null);
  const address = `/${document.library.code}/documents/${document.id}`;
  const { data, error } = useQuery({
    queryKey: ['text', document.id, document.latest.id],
    queryFn: () => textAt(routes.versionContent, { id: document.id, v: document.latest.label }),
  });
  const checkOut = async (): Promise<void> => {
    try {
      await call(routes.checkOut, { params: { id: document.id }, body: {} });
    } catch (refusal) {
      setRefused(refusal);
    }
    await refreshDocument(client, document.id);
  };
  return (
    <main className="edit">
      <header className="document-head">
        <span className="number doc-number">{document.number}</span>
        <h1>
          <Link to={address}>
            <bdi>{document.title}</bdi>
          </Link>
        </h1>
        {document.acts.checkOut.allowed && (
          <Button type="primary" onClick={() => void checkOut()}>
            Check out {document.latest.label} to edit it
          </Button>
        )}
      </header>
      <p className="edit-state" role="status">
        Read only. {whyReadOnly(document)}
      </p>
      <Unsent document={document} />
      <Refusal error={error ?? refused} onLeave={() => setRefused(null)} />
      {data && (
        <div className="edit-body">
          <CodeField
            text={data.text}
            name={document.fileName}
            readOnly
            revision={0}
            onChange={() => undefined}
            onSave={() => undefined}
          />
          <Preview text={data.text} name={document.fileName} />
        </div>
      )}
    </main>
  );
}

function whyReadOnly({ custody, acts }: Document): string {
  if (custody) return `${custody.holder.name} holds it.`;
  if (acts.checkOut.allowed) return 'Nothing typed here would be kept: check the document out first.';
  return acts.checkOut.why ?? '';
}

/** What is typed into a check-out, among what is unfinished. */
const aboutText = ({ id, number, title, custody }: Document): About => ({
  key: `${typedInto(id)}${custody?.since}`,
  words: `Text of ${number} ${title}`,
});

function WorkingCopy({ document }: { document: Document }) {
  const [landing, setLanding] = useState(false);
  const navigate = useNavigate();
  const client = useQueryClient();
  const { id, custody } = document;
  const name = custody?.workingCopy?.fileName ?? document.fileName;
  const address = `/${document.library.code}/documents/${id}`;
  const source = useMemo(
    (): Source => ({
      about: aboutText(document),
      present: custody?.workingCopy ? `"${custody.workingCopy.sha256}"` : null,
      load: () => textAt(routes.workingCopy, { id }),
      save: async (text, tag, { sitting, step, form }) => {
        const input = { params: { id }, query: step ? {} : { sitting } };
        const saved = await putText(routes.saveWorkingCopy, input, { text, name, tag, form });
        // The list of steps is looked at elsewhere; the text here stays what is being typed.
        void client.invalidateQueries({ queryKey: ['saves', id] });
        void client.invalidateQueries({ queryKey: ['document', id] });
        return `"${saved.workingCopy?.sha256 ?? (await currentTag(id))}"`;
      },
    }),
    [document, custody, id, name, client],
  );
  const saving = useAutosave(source);
  const { toCome } = document;
  return (
    <Editing
      name={name}
      saving={saving}
      title={
        <>
          <span className="number doc-number">{document.number}</span>
          <h1>
            <Link to={address}>
              <bdi>{document.title}</bdi>
            </Link>
          </h1>
        </>
      }
      below={
        <>
          <Unsent document={document} besides={source.about.key} />
          {landing && (
            <section className="landing-strip" aria-label="Check in">
              <LandingOf
                document={document}
                file={null}
                onLeave={() => setLanding(false)}
                onDone={() => void navigate(address)}
              />
            </section>
          )}
        </>
      }
      acts={
        <>
          <Button onClick={() => void saving.saveStep()}>
            Keep a save <kbd>Ctrl S</kbd>
          </Button>
          <Link to={`${address}/so-far`}>What has changed so far</Link>
          <Button onClick={() => void saving.send().then(() => setLanding(true))}>
            Check in as {[toCome?.minor, toCome?.major].filter(Boolean).join(' or ')}
          </Button>
        </>
      }
    />
  );
}

/** Where a save became a draft, the working copy is that draft. */
const currentTag = async (id: string): Promise<string> =>
  (await call(routes.readDocument, { params: { id } })).latest.sha256;

/** Editing a private copy, or an arrival, on one's Desk. */
export function EditFilePage() {
  const { id = '' } = useParams();
  const { data: file, error } = useQuery(deskFileQuery(id));
  if (error) return <Nowhere error={error} />;
  if (!file) return <Waiting screen />;
  if (!file.editable)
    return <Nowhere error={new PageError(`${file.fileName} is not a text that is edited in the page`)} />;
  return <DeskText id={id} name={file.fileName} sha256={file.sha256} />;
}

function DeskText({ id, name, sha256 }: { id: string; name: string; sha256: string }) {
  const client = useQueryClient();
  const source = useMemo(
    (): Source => ({
      about: { key: `desk file ${id}`, words: `Text of ${name}` },
      present: `"${sha256}"`,
      load: () => textAt(routes.deskFileContent, { id }),
      save: async (text, tag, { form }) => {
        const saved = await putText(routes.saveDeskFile, { params: { id } }, { text, name, tag, form });
        void client.invalidateQueries({ queryKey: ['desk'] });
        return `"${saved.sha256}"`;
      },
    }),
    [id, name, sha256, client],
  );
  const saving = useAutosave(source);
  return (
    <Editing
      name={name}
      saving={saving}
      title={<h1 dir="auto">{name}</h1>}
      note="A copy on your Desk: it has no versions, each save writes over the one before."
      acts={
        <>
          <Link to={`/desk/files/${id}/bring-in`}>Bring in</Link>
          <Link to="/desk">Back to the Desk</Link>
        </>
      }
    />
  );
}

const words: Record<Saving, string> = {
  loading: 'Loading …',
  saved: 'Saved',
  typing: 'Not sent yet; kept on this device',
  saving: 'Saving …',
  kept: 'The server cannot be reached. What you type is kept on this device and sent as soon as it answers.',
  moved: 'Written elsewhere meanwhile',
  refused: 'Not saved',
};

function Editing({
  name,
  saving,
  title,
  acts,
  below,
  note,
}: {
  name: string;
  saving: Autosave;
  title: React.ReactNode;
  acts: React.ReactNode;
  /** Between the head and the text. */
  below?: React.ReactNode;
  note?: string;
}) {
  const [view, setView] = useState<'both' | 'text'>('both');
  const { state, text, revision, savedAt, error, other, form } = saving;
  return (
    <main className="edit">
      <header className="document-head">
        <bdi>{title}</bdi>
        <span className="acts">{acts}</span>
      </header>
      {below}
      <p className={`edit-state edit-${state}`}>
        <span role="status">
          {words[state]}
          {state === 'saved' && savedAt && ` ${dayjs(savedAt).format('HH:mm:ss')}`}
        </span>{' '}
        {note && <span className="muted">{note}</span>}
        {form && form.encoding !== 'utf-8' && (
          <span className="muted">
            Written in {encodingNames[form.encoding]}.{' '}
            <button type="button" className="quiet" onClick={saving.toUtf8}>
              Write it in UTF-8
            </button>
          </span>
        )}
        <Segmented
          size="small"
          aria-label="View"
          value={view}
          onChange={(value) => setView(value as typeof view)}
          options={[
            { value: 'both', label: 'Text and preview' },
            { value: 'text', label: 'Text' },
          ]}
        />
      </p>
      {state === 'moved' && other !== null && <Moved key={other} saving={saving} other={other} />}
      <Refusal error={error} />
      {revision > 0 && (
        <div className={view === 'both' ? 'edit-body' : 'edit-body edit-alone'}>
          <CodeField
            text={text}
            name={name}
            readOnly={false}
            revision={revision}
            onChange={saving.change}
            onSave={() => void saving.saveStep()}
          />
          {view === 'both' && <Preview text={text} name={name} />}
        </div>
      )}
    </main>
  );
}
