import { type DeskFile, type Document, type Merge, routes } from '@polychron/contract';
import { compareWords, isCheckInQuestion, type Level, type MergeChoice } from '@polychron/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { App, Button, Input } from 'antd';
import { useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router-dom';
import { Nowhere } from '../../frame/Nowhere.tsx';
import { call, ProblemError } from '../../shared/api.ts';
import { deskFileQuery, documentQuery, mergeQuery, refreshDocument } from '../../shared/queries.ts';
import { Refusal } from '../../shared/Refusal.tsx';
import { dayTime } from '../../shared/when.ts';
import { Target } from './Target.tsx';

/** Bringing a file from the Desk into a document, laid over what happened there since it was taken; or registering it as a new one. */
export function BringInPage() {
  const { id = '' } = useParams();
  const [search, setSearch] = useSearchParams();
  const { data: file, error } = useQuery(deskFileQuery(id));
  if (error) return <Nowhere error={error} />;
  if (!file) return null;
  const documentId = search.get('document') ?? file.document?.id;
  return (
    <main className="bring-in">
      <header className="document-head"><h1>Bring in {file.fileName}</h1><Link to="/desk">Back to the Desk</Link></header>
      <p className="lead"><Whence file={file} /></p>
      {documentId && documentId !== 'none' ? <Landing key={documentId} file={file} documentId={documentId} asked={search.get('document') ?? undefined} onOther={() => setSearch({ document: 'none' })} />
        : <Target file={file} onDocument={(document) => setSearch({ document })} />}
    </main>
  );
}

function Whence({ file }: { file: DeskFile }) {
  if (file.kind === 'setAside') return <>Set aside when {file.by?.name} lifted your check-out: “{file.reason}”. Last saved {dayTime(file.changedAt)}.</>;
  if (file.kind === 'looseCopy') return <>A loose copy{file.document && <> of {file.document.number} {file.base}</>}, last written {dayTime(file.changedAt)}.</>;
  return <>Arrived {dayTime(file.createdAt)}.{file.document && <> By the mark in it, it was taken from {file.document.number} {file.base}.</>}</>;
}

function Landing({ file, documentId, asked, onOther }: { file: DeskFile; documentId: string; asked: string | undefined; onOther: () => void }) {
  const { data: document, error } = useQuery(documentQuery(documentId));
  const merge = useQuery(mergeQuery(file.id, asked));
  if (error) return <Nowhere error={error} />;
  if (merge.error) return <><Refusal error={merge.error} /><button type="button" className="quiet" onClick={onOther}>Bring it in elsewhere</button></>;
  if (!document || !merge.data) return <div className="sheet sheet-waiting" aria-busy="true" />;
  // Looked at anew when somebody checks in meanwhile: choices belong to the regions they were made for.
  return <Choosing key={merge.data.latest} file={file} document={document} merge={merge.data} onOther={onOther} />;
}

type Choices = Record<number, MergeChoice>;

function Choosing({ file, document, merge, onOther }: { file: DeskFile; document: Document; merge: Merge; onOther: () => void }) {
  const [choices, setChoices] = useState<Choices>({});
  // Nothing happened since it was taken, or nothing can be merged: the file goes in as it is.
  const happened = merge.base !== merge.latest && merge.format !== null;
  const [asIs, setAsIs] = useState(false);
  const open = merge.regions.filter(({ merged }, index) => merged === null && choices[index] === undefined).length;
  return (
    <>
      <p className="bring-in-to">
        Into <Link to={`/${document.library.code}/documents/${document.id}`}><span className="number">{document.number}</span> {document.title}</Link>
        {merge.base && <> · taken from <span className="number">{merge.base}</span>, the latest is <span className="number">{merge.latest}</span>{merge.base === merge.latest && ': nothing happened since'}</>}
        {' '}<button type="button" className="quiet" onClick={onOther}>elsewhere</button>
      </p>
      {merge.why && <p className="muted">{merge.why}</p>}
      {happened && !asIs && <Regions merge={merge} choices={choices} onChoose={(index, choice) => setChoices({ ...choices, [index]: choice })} />}
      <Checking file={file} document={document} merge={merge} choices={happened && !asIs ? choices : null} open={happened && !asIs ? open : 0} asIs={asIs} onAsIs={happened ? () => setAsIs(!asIs) : null} />
    </>
  );
}

const words = { same: '', theirs: 'only they changed it', yours: 'only you changed it', both: 'both changed it alike', words: 'both changed other words of it; put together', conflict: 'both changed it' } as const;
const choiceWords: [MergeChoice, string][] = [['theirs', 'theirs'], ['yours', 'yours'], ['both', 'both, theirs first'], ['base', 'as it was']];

function Regions({ merge, choices, onChoose }: { merge: Merge; choices: Choices; onChoose: (index: number, choice: MergeChoice) => void }) {
  const unit = merge.format === 'docx' ? 'paragraph' : 'line';
  return (
    <div className="merge" role="region" aria-label="What happened on both sides">
      <div className="merge-row merge-head"><span>Base <span className="number">{merge.base}</span></span><span>Theirs <span className="number">{merge.latest}</span></span><span>Yours</span></div>
      {merge.regions.map((region, index) => {
        if (region.kind === 'same') return <p key={index} className="merge-same">{region.base.length} {unit}{region.base.length === 1 ? '' : 's'} the same</p>;
        const base = region.base.join(merge.format === 'docx' ? '\n' : '');
        const side = (pieces: string[]): string => pieces.join(merge.format === 'docx' ? '\n' : '');
        const choice = choices[index];
        const waits = region.merged === null && choice === undefined;
        return (
          <section key={index} className={waits ? 'merge-region merge-open' : 'merge-region'} aria-label={`${words[region.kind]}${waits ? ', to be chosen' : ''}`}>
            <div className="merge-row">
              <div className="merge-side">{base || <em>nothing</em>}</div>
              <div className={taken(region, choice, 'theirs') ? 'merge-side merge-taken' : 'merge-side'}><Changed base={base} text={side(region.theirs)} /></div>
              <div className={taken(region, choice, 'yours') ? 'merge-side merge-taken' : 'merge-side'}><Changed base={base} text={side(region.yours)} /></div>
            </div>
            {region.kind === 'words' && choice === undefined && region.merged && <p className="merge-words">Together: {side(region.merged)}</p>}
            <div className="acts">
              <span className="muted">{words[region.kind]}</span>
              {choiceWords.filter(([value]) => offered(region, value)).map(([value, label]) => (
                <button key={value} type="button" className={choice === value ? 'chip chip-on' : 'chip'} aria-pressed={choice === value} onClick={() => onChoose(index, value)}>{label}</button>
              ))}
              {region.yoursStays && <span className="muted">{region.yoursStays}</span>}
            </div>
          </section>
        );
      })}
    </div>
  );
}

/** Where one side left it as it was, that side is no choice of its own. */
const offered = (region: Merge['regions'][number], choice: MergeChoice): boolean =>
  (region.yoursStays ? choice === 'theirs' || choice === 'base' : region.kind === 'theirs' || region.kind === 'yours' ? choice === region.kind || choice === 'base' : true);

const taken = (region: Merge['regions'][number], choice: MergeChoice | undefined, side: 'theirs' | 'yours'): boolean =>
  (choice === undefined ? region.kind === side || region.kind === 'both' || region.kind === 'words' : choice === side || choice === 'both');

/** A side with what it took out of the base and put in. */
function Changed({ base, text }: { base: string; text: string }) {
  if (text === '') return <em>{base === '' ? 'nothing' : 'taken out'}</em>;
  if (base === '') return <ins>{text}</ins>;
  return compareWords([{ text: base }], [{ text }]).runs.map((run, index) => (
    run.status === 'same' ? <span key={index}>{run.text}</span> : run.status === 'inserted' ? <ins key={index}>{run.text}</ins> : <del key={index}>{run.text}</del>));
}

interface CheckingProps { file: DeskFile; document: Document; merge: Merge; choices: Choices | null; open: number; asIs: boolean; onAsIs: (() => void) | null }

/** The comment and the number it becomes. */
function Checking({ file, document, merge, choices, open, asIs, onAsIs }: CheckingProps) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const { message } = App.useApp();
  const [comment, setComment] = useState('');
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const [answered, setAnswered] = useState<{ level: Level; confirm: string[] }>({ level: 'minor', confirm: [] });
  const { toCome, acts } = document;
  const problem = error instanceof ProblemError ? error.problem : null;
  const question = problem && problem.status === 409 && isCheckInQuestion(problem.code) ? problem : null;
  const go = async (level: Level, confirm: string[] = []): Promise<void> => {
    setBusy(true);
    setError(null);
    setAnswered({ level, confirm });
    try {
      const made = await call(routes.bringIn, { params: { id: file.id }, body: { document: document.id, level, comment, confirm, choices, ...(merge.base ? { latest: merge.latest } : {}) } });
      void message.success(`${document.number} is ${made.label}${made.standing === 'inForce' ? ' and in force' : made.state === 'inApproval' ? ' and waits for its approvers' : ''}. The file has left your Desk.`);
      await refreshDocument(client, document.id);
      void navigate(`/${document.library.code}/documents/${document.id}/versions/${encodeURIComponent(made.label)}`);
    } catch (refusal) { setError(refusal); setBusy(false); if (refusal instanceof ProblemError && refusal.problem.status === 412) await client.invalidateQueries({ queryKey: ['merge'] }); }
  };
  if (!toCome) return <p className="refusal">{acts.checkOut.why ?? 'You may not change this document.'}</p>;
  const blocked = open > 0;
  return (
    <section className="consequences bring-in-check" aria-label="Bring in">
      <p>{blocked ? <>{open} {open === 1 ? 'place is' : 'places are'} still to be chosen.</> : document.custody ? <>{document.custody.mine ? 'You hold' : `${document.custody.holder.name} holds`} {document.number}; it can be brought in once it is free.</>
        : choices ? <>The new version holds both sides as chosen. {file.fileName} leaves your Desk.</> : <>The file becomes the next version as it is{asIs && <>; what came after {merge.base} is not in it</>}. It leaves your Desk.</>}</p>
      <Input value={comment} maxLength={4000} aria-label="Check-in comment" placeholder={toCome.commentRequired ? 'What changed? (needed)' : 'What changed?'} onChange={(event) => setComment(event.target.value)} />
      <div className="acts">
        {question ? <><span>{question.detail}</span><Button onClick={() => void go(answered.level, [...answered.confirm, question.code])}>Yes, take it</Button></> : (
          <>
            {toCome.minor && <Button type="primary" loading={busy} disabled={blocked} onClick={() => void go('minor')}>Become {toCome.minor}, a draft</Button>}
            <Button loading={busy} disabled={blocked} onClick={() => void go('major')}>{toCome.submittedAs ? `Submit ${toCome.submittedAs}` : `Become ${toCome.major}, in force`}</Button>
          </>
        )}
        {onAsIs && <button type="button" className="quiet" onClick={onAsIs}>{asIs ? 'Merge with what happened' : 'Take my file as it is'}</button>}
      </div>
      {!question && <Refusal error={error} onLeave={() => setError(null)} />}
    </section>
  );
}
