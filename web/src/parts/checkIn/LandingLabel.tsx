import { numberWords } from '@polychron/core';
import { PlaceInQueue } from '../PlaceInQueue.tsx';
import { useFileDrop } from '../drop/useFileDrop.ts';
import { type MadeVersion, routes } from '@polychron/contract';
import type { Level } from '@polychron/core';
import { useQueryClient } from '@tanstack/react-query';
import { Button, Checkbox, Input, type InputRef, Progress, Segmented } from 'antd';
import { useEffect, useRef, useState } from 'react';
import { call, PageError, upload, type Upload } from '../../ui/api.ts';
import { dayTime } from '../../ui/when.ts';
import { Never } from '../approval/Never.tsx';
import { refreshDocument } from '../queries.ts';
import type { Landing } from './landing.ts';
import { Question } from './Question.tsx';
import { madeWords, outcomeWords, sayMade, useCheckInFlow } from './useCheckInFlow.ts';
import { useMessages } from '../../ui/messages.tsx';
import { useFocusBack } from '../../ui/useFocusBack.ts';
import { useSeveralOutcomes } from '../../ui/useSeveralOutcomes.tsx';
import { useTypedInto, useUnfinished } from '../../ui/unfinished.ts';

interface Props {
  landing: Landing;
  /** The level chosen first; another can be chosen in the label. */
  level: Level;
  /** Whether a person chose that level, or it is only proposed. */
  isChosen: boolean;
  file: File | null;
  onLeave: () => void;
  /** Told once the version is made; left out, the label is left. */
  onDone?: (() => void) | undefined;
}

interface Typed {
  comment: string;
  /** Chosen in the label. */
  level: Level | null;
  keep: boolean;
  newName: boolean;
  file: File | null;
}
const nothingTyped: Typed = { comment: '', level: null, keep: false, newName: false, file: null };

/** The label of a version about to land: its number, its comment, Enter. Nothing is sent before that. */
export function LandingLabel({ landing, level: first, isChosen, file: dropped, onLeave, onDone }: Props) {
  const client = useQueryClient();
  const message = useMessages();
  const kept = useUnfinished<Typed>(
    { key: `checkIn ${landing.documentId}`, words: `Check in, ${landing.number} ${landing.title}` },
    nothingTyped,
  );
  const { comment, keep, newName } = kept.value;
  const [level, setLevel] = useState(isChosen ? first : (kept.value.level ?? first));
  // Where one of two was not chosen yet, Enter does not choose it.
  const [isLevelChosen, setLevelChosen] = useState(
    isChosen || kept.value.level !== null || landing.ways.length === 1,
  );
  const several = useSeveralOutcomes();
  useFocusBack();
  // Words of the editor that are in no save, where the working copy is what is checked in.
  const typed = useTypedInto(landing.documentId).at(-1)?.typed;
  const [without, setWithout] = useState(false);
  const choose = (chosenLevel: Level): void => {
    setLevel(chosenLevel);
    setLevelChosen(true);
    kept.change({ level: chosenLevel });
  };
  const label = landing.ways.find((way) => way.level === level)?.label ?? '';
  // What came last counts: a file chosen here, or one given later.
  const [chosen, setChosen] = useState({ file: dropped ?? kept.value.file, insteadOf: dropped });
  const file = chosen.insteadOf === dropped ? chosen.file : dropped;
  const { change } = kept;
  const keepFile = useRef(change);
  useEffect(() => {
    keepFile.current = change;
  });
  useEffect(() => {
    if (file) keepFile.current({ file });
  }, [file]);
  const [share, setShare] = useState<number | null>(null);
  const [missing, setMissing] = useState(false);
  const sending = useRef<Upload<MadeVersion> | null>(null);
  const field = useRef<InputRef>(null);
  // Leaving the label while it is sending cancels the sending; what was typed before is still in the field.
  useEffect(() => () => sending.current?.cancel(), []);

  const givenName = file?.name ?? landing.workingCopy?.fileName ?? landing.registeredName;
  const otherName = givenName !== landing.registeredName;
  const submits = level === 'major' && landing.submittedAs !== null;
  // Taken before the file is sent; a question that is asked after that finds it taken.
  const taken = useRef(landing.by !== 'checkOut');
  const busy = share !== null;
  const mayKeep = !submits && landing.by !== 'upload';
  const flow = useCheckInFlow(async (keepCheckedOut: boolean, confirm: string[]) => {
    setShare(0);
    // Another name is asked about beside the file, before anything is sent.
    const answers = [...confirm, ...(newName ? ['other-name'] : [])];
    const fields = {
      comment,
      level,
      keepFileName: String(!newName),
      confirm: answers.join(','),
    };
    const params = { id: landing.documentId };
    try {
      if (!taken.current) await call(routes.checkOut, { params, body: {} });
      taken.current = true;
      sending.current =
        landing.by === 'upload'
          ? upload(
              routes.uploadVersion,
              params,
              { file, fields: { ...fields, basedOn: landing.latest.id } },
              setShare,
            )
          : upload(
              routes.checkIn,
              params,
              { file, fields: { ...fields, keepCheckedOut: String(keepCheckedOut) } },
              setShare,
            );
      const version = await sending.current.done;
      const said = `${landing.number} is checked in as ${numberWords(version.label)}${madeWords(version)}.`;
      sayMade(message, said, version.notRead);
      kept.done();
      (onDone ?? onLeave)();
    } finally {
      sending.current = null;
      setShare(null);
      // Where the document was checked out on the way, that shows even if no version was made. Without a
      // network it is read once there is one; what went wrong is told before.
      void refreshDocument(client, landing.documentId);
    }
  }, file);
  useEffect(() => {
    field.current?.focus();
  }, [file]);
  const take = (first: File | undefined): void => {
    if (first) setChosen({ file: first, insteadOf: dropped });
  };
  const drop = useFileDrop(busy ? null : ([first]) => take(first));
  const land = (keepCheckedOut: boolean): void => {
    const wanting = landing.commentRequired && comment.trim() === '';
    setMissing(wanting);
    if (wanting) field.current?.focus();
    else if (typed && !file && !without) flow.say(notSaved());
    else if (!file && !landing.workingCopy && landing.by !== 'checkIn') flow.say(noFile());
    else void flow.send(keepCheckedOut);
  };

  return (
    <form
      className={drop.over ? 'landing files-over' : 'landing'}
      {...drop.handlers}
      aria-label={`Check in as ${numberWords(label)}`}
      onSubmit={(event) => {
        event.preventDefault();
        land(keep);
      }}
      onKeyDown={(event) => {
        if (event.key === 'Escape') onLeave();
        const wanted = levelKeys[event.key];
        if (wanted && landing.ways.length > 1 && !busy) {
          event.preventDefault();
          choose(wanted);
        }
        if (!isLevelChosen) several.onKeyDown(event);
        else if (event.key === 'Enter' && event.altKey && mayKeep) {
          event.preventDefault();
          land(true);
        }
      }}
    >
      <div className="landing-head">
        <span className={`number landing-number ${level === 'major' ? 'number-published' : 'number-draft'}`}>
          {numberWords(label)}
        </span>
        <span>{stateToCome(level, label, landing.submittedAs)}</span>
      </div>
      {level === 'major' && landing.submittedAs === null && (
        <Never toCome={{ scheduled: [...landing.scheduled] }} />
      )}
      {landing.ways.length > 1 && (
        <Segmented
          aria-label="Level"
          disabled={busy}
          value={level}
          onChange={choose}
          options={landing.ways.map((way) => ({
            value: way.level,
            label: `${numberWords(way.label)} ${fateWords(way.level, landing.submittedAs)}`,
          }))}
        />
      )}
      <Input
        dir="auto"
        ref={field}
        value={comment}
        disabled={busy}
        aria-label="Check-in comment"
        placeholder={landing.commentRequired ? 'What changed? (needed)' : 'What changed?'}
        status={missing ? 'error' : ''}
        maxLength={4000}
        onChange={(event) => kept.change({ comment: event.target.value })}
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
              take(event.target.files?.[0]);
              event.target.value = '';
            }}
          />
        </label>
      </div>
      {landing.by !== 'checkIn' && (
        <p className="muted">
          {landing.by === 'upload'
            ? `Based on ${landing.latest.label}. If somebody has changed it meanwhile nothing is stored, and both versions are named.`
            : `You do not hold it: it is checked out for you first, at ${landing.latest.label}.`}
        </p>
      )}
      {typed && !file && (
        <Checkbox checked={without} disabled={busy} onChange={(event) => setWithout(event.target.checked)}>
          check in what was saved, without what you typed and could not be saved: “{typed}” It stays on this
          device.
        </Checkbox>
      )}
      {otherName && (
        <Checkbox
          checked={newName}
          disabled={busy}
          onChange={(event) => kept.change({ newName: event.target.checked })}
        >
          take the new name, not {landing.registeredName}
        </Checkbox>
      )}
      {mayKeep && (
        <Checkbox
          checked={keep}
          disabled={busy}
          onChange={(event) => kept.change({ keep: event.target.checked })}
        >
          keep it checked out, and go on
        </Checkbox>
      )}
      {missing ? (
        <div className="refusal" role="alert">
          Say in a sentence what changed.
        </div>
      ) : (
        <Question flow={flow} />
      )}
      {several.hint}
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
            Cancel
          </button>
        )}
      </div>
      <p className="keys">
        {[
          isLevelChosen && 'Enter',
          isLevelChosen && mayKeep && 'Alt+Enter: keep it checked out',
          landing.ways.length > 1 && '↑ ↓: the other number',
        ]
          .filter(Boolean)
          .join(' · ')}
      </p>
    </form>
  );
}

/** The upper line of the Strand is the published one, the lower that of drafts. */
const levelKeys: Partial<Record<string, Level>> = { ArrowUp: 'major', ArrowDown: 'minor' };

const notSaved = (): PageError =>
  new PageError(
    'What you typed in the editor is not saved yet. Save it there, or check in without it by ticking that.',
  );
const noFile = (): PageError => new PageError('Choose the edited file first.');

/** What becomes of a version of the level, beside its number. */
function fateWords(level: Level, submittedAs: string | null): string {
  if (level === 'minor') return 'draft';
  return submittedAs ? 'to be approved' : 'in force';
}

function stateToCome(level: Level, label: string, submittedAs: string | null): string {
  if (level === 'minor') return 'a draft';
  if (submittedAs === null) return 'published, in force at once';
  return `once it is approved${submittedAs === label ? '' : `; until then ${submittedAs}`}`;
}

function FileWords({ file, landing }: Pick<Props, 'file' | 'landing'>) {
  if (file) return <>{file.name}</>;
  const { workingCopy } = landing;
  if (!workingCopy) return <>no edited file yet</>;
  return <>the working copy{workingCopy.savedAt ? `, saved ${dayTime(workingCopy.savedAt)}` : ''}</>;
}
