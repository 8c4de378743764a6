import { type Bulk, type BulkOutcomes, type Document, routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { App, Button, Input, Progress, Segmented } from 'antd';
import { useRef, useState } from 'react';
import { call } from '../../ui/api.ts';
import { Refusal } from '../../ui/Refusal.tsx';

type Act = Bulk['act'];
type Outcome = BulkOutcomes['outcomes'][number];
const words: Record<Act, string> = { checkOut: 'Check out', checkIn: 'Check in', giveBack: 'Give back' };
/** Documents acted on in one call; between two calls the rest can be left. */
const atOnce = 10;
/** Documents looked at in one call. */
const maximumAtOnce = 100;

/** One act for the ticked documents: what would become of each is shown first, what became of each after. */
export function BulkBar({ documents, onLeave }: { documents: Document[]; onLeave: () => void }) {
  const client = useQueryClient();
  const { message } = App.useApp();
  const [act, setAct] = useState<Act | null>(null);
  const [level, setLevel] = useState<'minor' | 'major'>('minor');
  const [comment, setComment] = useState('');
  const [done, setDone] = useState<Outcome[] | null>(null);
  const [running, setRunning] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const left = useRef(false);
  const ids = documents.map(({ id }) => id);
  const rehearsed = useQuery({
    queryKey: ['documents', 'bulk', act, level, ids],
    enabled: act !== null && done === null,
    queryFn: async () => {
      const outcomes: Outcome[] = [];
      for (let at = 0; at < ids.length; at += maximumAtOnce)
        outcomes.push(
          ...(
            await call(routes.bulk, {
              body: { act, documents: ids.slice(at, at + maximumAtOnce), level, rehearse: true },
            })
          ).outcomes,
        );
      return { outcomes };
    },
  });
  const outcomes = done ?? rehearsed.data?.outcomes ?? [];
  const possible = outcomes.filter(({ ok }) => ok).length;
  const go = async (): Promise<void> => {
    setRunning(true);
    setError(null);
    left.current = false;
    const wanted = (rehearsed.data?.outcomes ?? []).filter(({ ok }) => ok).map(({ document }) => document);
    const so: Outcome[] = (rehearsed.data?.outcomes ?? []).filter(({ ok }) => !ok);
    try {
      for (let at = 0; at < wanted.length && !left.current; at += atOnce) {
        so.push(
          ...(
            await call(routes.bulk, {
              body: { act, documents: wanted.slice(at, at + atOnce), level, comment },
            })
          ).outcomes,
        );
        setDone([...so]);
      }
      void message.success(
        `${so.filter(({ ok }) => ok).length} of ${documents.length} done${left.current ? '; the others were not touched' : ''}.`,
      );
    } catch (refusal) {
      setError(refusal);
    }
    setRunning(false);
    await client.invalidateQueries({ queryKey: ['documents'] });
    await client.invalidateQueries({ queryKey: ['desk'] });
  };
  return (
    <section className="bulk" aria-label="Ticked documents">
      <div className="acts">
        <strong>{documents.length} ticked</strong>
        {(Object.keys(words) as Act[]).map((one) => (
          <button
            key={one}
            type="button"
            className={act === one ? 'chip chip-on' : 'chip'}
            aria-pressed={act === one}
            disabled={running}
            onClick={() => {
              setAct(one);
              setDone(null);
            }}
          >
            {words[one]}
          </button>
        ))}
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
          <ul aria-label={done ? 'What became of each' : 'What would become of each'}>
            {outcomes.map((one) => (
              <li key={one.document} className={one.ok ? '' : 'bulk-not'}>
                {!one.text.includes(one.number) && <span className="number doc-number">{one.number} </span>}
                {one.text}
              </li>
            ))}
          </ul>
          <Refusal error={error ?? rehearsed.error} onLeave={() => setError(null)} />
          {running && (
            <Progress
              size="small"
              percent={Math.round((100 * (done?.length ?? 0)) / documents.length)}
              aria-label="Progress"
            />
          )}
          {!done && (
            <form
              className="acts"
              onSubmit={(event) => {
                event.preventDefault();
                void go();
              }}
            >
              {act === 'checkIn' && (
                <Segmented
                  aria-label="Level"
                  value={level}
                  onChange={(value) => setLevel(value as typeof level)}
                  options={[
                    { value: 'minor', label: 'as drafts' },
                    { value: 'major', label: 'published' },
                  ]}
                />
              )}
              {act === 'checkIn' && (
                <Input
                  aria-label="Check-in comment"
                  placeholder="One comment for all"
                  value={comment}
                  maxLength={4000}
                  onChange={(event) => setComment(event.target.value)}
                  style={{ maxWidth: 420 }}
                />
              )}
              <Button
                htmlType="submit"
                type="primary"
                loading={running || rehearsed.isFetching}
                disabled={possible === 0}
              >
                {words[act]} {possible} {possible === 1 ? 'document' : 'documents'}
              </Button>
            </form>
          )}
        </>
      )}
    </section>
  );
}
