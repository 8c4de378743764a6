import { type Bulk, type BulkOutcomes, type Document, routes } from '@polychron/contract';
import { isCheckInQuestion, type Level } from '@polychron/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Input, Progress, Segmented } from 'antd';
import { useRef, useState } from 'react';
import { addressOf, call, download } from '../../ui/api.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { useMessages } from '../../ui/messages.tsx';
import { useUnfinished } from '../../ui/unfinished.ts';
import { useSeveralOutcomes } from '../../ui/useSeveralOutcomes.tsx';

type Act = Bulk['act'];
type Outcome = BulkOutcomes['outcomes'][number];
/** What was answered yes, by document. */
type Answers = Readonly<Record<string, readonly string[]>>;

const words: Record<Act, string> = {
  checkOut: 'Check out',
  checkIn: 'Check in',
  giveBack: 'Give back',
  submit: 'Submit',
  publish: 'Publish',
  approve: 'Approve',
};
/** What is asked beside the acts that take a comment. */
const commentHints: Partial<Record<Act, string>> = {
  checkIn: 'One comment for all',
  submit: 'What should the approvers look at? (optional)',
  publish: 'What is new? (optional, one for all)',
  approve: 'A word to all of them (optional)',
};
/** Documents acted on in one call; between two calls the rest can be left. */
const atOnce = 10;
/** Documents looked at in one call. */
const maximumAtOnce = 100;

const mayBe = ({ acts }: Document, act: Act): boolean => acts[act === 'approve' ? 'decide' : act].allowed;

/** Ids in groups that are sent in one call each: the same answers, and no more than `size`. */
function groupsOf(
  ids: readonly string[],
  answers: Answers,
  size: number,
): { ids: string[]; confirm: string[] }[] {
  const byAnswers = new Map<string, string[]>();
  for (const id of ids) {
    const given = (answers[id] ?? []).join();
    byAnswers.set(given, [...(byAnswers.get(given) ?? []), id]);
  }
  return [...byAnswers].flatMap(([confirm, all]) =>
    Array.from({ length: Math.ceil(all.length / size) }, (_, at) => ({
      ids: all.slice(at * size, (at + 1) * size),
      confirm: confirm === '' ? [] : confirm.split(','),
    })),
  );
}

/** One act for the ticked documents: what will become of each is shown first, what became of each after. */
export function BulkBar({ documents, onLeave }: { documents: Document[]; onLeave: () => void }) {
  const client = useQueryClient();
  const message = useMessages();
  const [act, setAct] = useState<Act | null>(null);
  const form = useUnfinished<{ level: Level; comment: string }>(
    { key: 'bulk', words: 'For the ticked documents' },
    { level: 'minor', comment: '' },
  );
  const { level, comment } = form.value;
  const several = useSeveralOutcomes();
  const [answers, setAnswers] = useState<Answers>({});
  const [done, setDone] = useState<Outcome[] | null>(null);
  const [running, setRunning] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const left = useRef(false);
  const ids = documents.map(({ id }) => id);
  const ask = async (group: { ids: string[]; confirm: string[] }, more: object): Promise<Outcome[]> => {
    const body = { act, documents: group.ids, level, confirm: group.confirm.join(','), ...more };
    return (await call(routes.bulk, { body })).outcomes;
  };
  const rehearsed = useQuery({
    queryKey: ['documents', 'bulk', act, level, ids, answers],
    enabled: act !== null && done === null,
    queryFn: async () => {
      const outcomes = new Map<string, Outcome>();
      for (const group of groupsOf(ids, answers, maximumAtOnce))
        for (const one of await ask(group, { rehearse: true })) outcomes.set(one.document, one);
      return ids.flatMap((id) => outcomes.get(id) ?? []);
    },
    // An answer changes one line of the list; another act changes all of it.
    placeholderData: (before, query) => (query?.queryKey[2] === act ? before : undefined),
  });
  const outcomes = done ?? (act === null ? [] : (rehearsed.data ?? []));
  const possible = outcomes.filter(({ ok }) => ok).length;
  const asked = outcomes.filter(isQuestion);
  const sayYes = (to: readonly Outcome[]): void => {
    const said = to.map(({ document, problem }): [string, string[]] => [
      document,
      [...(answers[document] ?? []), problem?.code ?? ''],
    ]);
    setAnswers({ ...answers, ...Object.fromEntries(said) });
    // What was asked when it was done is done again, with the answer.
    setDone(null);
  };
  const go = async (): Promise<void> => {
    setRunning(true);
    setError(null);
    left.current = false;
    const before = rehearsed.data ?? [];
    const wanted = before.filter(({ ok }) => ok).map(({ document }) => document);
    const so: Outcome[] = before.filter(({ ok }) => !ok);
    try {
      for (const group of groupsOf(wanted, answers, atOnce)) {
        if (left.current) break;
        so.push(...(await ask(group, { comment })));
        setDone([...so]);
      }
      form.done();
      const made = so.filter(({ ok }) => ok).map(({ document }) => document);
      if (act === 'checkOut' && made.length > 0)
        download(addressOf(routes.workingCopies, { query: { documents: made.join(',') as never } }));
      void message.success(
        `${made.length} of ${documents.length} done${left.current ? '; the others were not touched' : ''}.`,
      );
    } catch (refusal) {
      setError(refusal);
    }
    setRunning(false);
    await client.invalidateQueries({ queryKey: ['documents'] });
    await client.invalidateQueries({ queryKey: ['desk'] });
  };
  const acts = (Object.keys(words) as Act[]).filter(
    (one) => one === act || documents.some((document) => mayBe(document, one)),
  );
  const hint = act && commentHints[act];
  return (
    <section className="bulk" aria-label="Ticked documents">
      <div className="acts">
        <strong>{documents.length} ticked</strong>
        {acts.map((one) => (
          <button
            key={one}
            type="button"
            className={act === one ? 'chip chip-on' : 'chip'}
            aria-pressed={act === one}
            disabled={running}
            onClick={() => {
              setAct(one);
              setAnswers({});
              setDone(null);
            }}
          >
            {words[one]}
          </button>
        ))}
        {acts.length === 0 && (
          <span className="muted" role="status">
            Nothing can be done with {documents.length === 1 ? 'it' : 'these'} just now: others hold them, or
            they wait for a decision.
          </span>
        )}
        <span className="top-gap" />
        <button
          type="button"
          className="quiet"
          onClick={() => {
            left.current = true;
            onLeave();
          }}
        >
          {running ? 'Stop here' : 'Untick all'}
        </button>
      </div>
      {act && (
        <>
          <ul aria-label={done ? 'What became of each' : 'What will become of each'}>
            {outcomes.map((one) => (
              <li key={one.document} className={one.ok ? '' : 'bulk-not'}>
                {!one.text.includes(one.number) && <span className="number doc-number">{one.number} </span>}
                {one.text}{' '}
                {isQuestion(one) && !running && (
                  <button type="button" className="quiet" onClick={() => sayYes([one])}>
                    Yes, check it in
                  </button>
                )}
              </li>
            ))}
          </ul>
          {asked.length > 1 && !running && (
            <button type="button" className="quiet" onClick={() => sayYes(asked)}>
              Yes to all {asked.length}
            </button>
          )}
          <Refusal error={error ?? rehearsed.error} onLeave={() => setError(null)} />
          {running && (
            <Progress
              size="small"
              percent={Math.round((100 * (done?.length ?? 0)) / documents.length)}
              aria-label="Progress"
            />
          )}
          {several.hint}
          {!done && (
            <form
              className="acts"
              onSubmit={(event) => {
                event.preventDefault();
                void go();
              }}
              {...(act === 'checkIn' && { onKeyDown: several.onKeyDown })}
            >
              {act === 'checkIn' && (
                <Segmented
                  aria-label="Level"
                  value={level}
                  onChange={(chosen: Level) => form.change({ level: chosen })}
                  options={[
                    { value: 'minor', label: 'as drafts' },
                    { value: 'major', label: 'published' },
                  ]}
                />
              )}
              {hint && (
                <Input
                  aria-label={act === 'checkIn' ? 'Check-in comment' : 'Comment'}
                  placeholder={hint}
                  value={comment}
                  maxLength={4000}
                  onChange={(event) => form.change({ comment: event.target.value })}
                  style={{ maxWidth: 420 }}
                />
              )}
              <Button
                htmlType="submit"
                type="primary"
                loading={running}
                disabled={possible === 0 || rehearsed.isPlaceholderData}
              >
                {words[act]} {possible} {possible === 1 ? 'document' : 'documents'}
              </Button>
              {act === 'checkOut' && possible > 0 && (
                <span className="muted">The files come as one .zip, each marked with its version.</span>
              )}
            </form>
          )}
        </>
      )}
    </section>
  );
}

/** Whether a yes would do. */
const isQuestion = ({ problem }: Outcome): boolean => problem !== null && isCheckInQuestion(problem.code);
