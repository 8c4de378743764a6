import { type ApprovalList, type BulkOutcomes, routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Input, Progress } from 'antd';
import { useState } from 'react';
import { readAgain } from '../../parts/queries.ts';
import { call } from '../../ui/api.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { useUnfinished } from '../../ui/unfinished.ts';

type Outcome = BulkOutcomes['outcomes'][number];

interface Props {
  items: readonly ApprovalList['items'][number][];
  onLeave: () => void;
  onDone: () => void;
}

/** Decisions taken in one call; between two calls the rest can be left. */
const atOnce = 10;

/**
 * The ticked ones approved together: what becomes of each is said before, with a comment for all or for one;
 * what became of it after.
 */
export function DecideMany({ items, onLeave, onDone }: Props) {
  const client = useQueryClient();
  const form = useUnfinished<{ comment: string; own: Readonly<Record<string, string>> }>(
    { key: 'approveTogether', words: 'Approve together' },
    { comment: '', own: {} },
  );
  const { comment, own } = form.value;
  const [done, setDone] = useState<readonly Outcome[] | null>(null);
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const ids = items.map(({ document }) => document.id);
  const { data: rehearsed } = useQuery({
    queryKey: ['desk', 'approvals', 'rehearsed', ids],
    queryFn: () => call(routes.bulk, { body: { act: 'approve', documents: ids, rehearse: true } }),
    enabled: done === null,
  });
  const approve = async (): Promise<void> => {
    setBusy(true);
    setError(null);
    try {
      const outcomes: Outcome[] = [];
      for (let at = 0; at < ids.length; at += atOnce) {
        const documents = ids.slice(at, at + atOnce);
        const comments = Object.fromEntries(
          Object.entries(own).filter(([id, text]) => documents.includes(id) && text.trim() !== ''),
        );
        const answer = await call(routes.bulk, { body: { act: 'approve', documents, comment, comments } });
        outcomes.push(...answer.outcomes);
        setDone([...outcomes]);
      }
      form.done();
    } catch (refusal) {
      setError(refusal);
    } finally {
      setBusy(false);
    }
  };
  const leave = (): void => {
    onLeave();
    if (done === null) return;
    onDone();
    for (const name of ['desk', 'documents', 'document']) void readAgain(client, { queryKey: [name] });
  };
  const outcomes = done ?? rehearsed?.outcomes ?? [];
  const count = outcomes.filter(({ ok }) => ok).length;
  return (
    <section className="consequences approvals-many" aria-label="Approve together">
      <p>
        {done
          ? `${count} of ${done.length} approved.`
          : `${ids.length} ${ids.length === 1 ? 'is' : 'are'} ticked; what will become of each:`}
      </p>
      <ul>
        {outcomes.map((outcome) => (
          <li key={outcome.document} className={outcome.ok ? '' : 'alarm'}>
            <span>
              <span className="number doc-number">{outcome.number}</span> {outcome.text}
            </span>
            {done === null && outcome.ok && (
              <Input
                size="small"
                value={own[outcome.document] ?? ''}
                maxLength={4000}
                placeholder="A comment of its own (optional)"
                aria-label={`Comment on ${outcome.number}`}
                onChange={(event) => form.change({ own: { ...own, [outcome.document]: event.target.value } })}
              />
            )}
          </li>
        ))}
      </ul>
      {busy && <Progress percent={Math.round(((done?.length ?? 0) / ids.length) * 100)} showInfo={false} />}
      {done === null && (
        <Input
          value={comment}
          maxLength={4000}
          placeholder="One comment for all the others (optional)"
          aria-label="Comment for all"
          onChange={(event) => form.change({ comment: event.target.value })}
        />
      )}
      <div className="acts">
        {done === null && (
          <Button
            type="primary"
            loading={busy}
            disabled={!rehearsed || count === 0}
            onClick={() => void approve()}
          >
            Approve {count}
          </Button>
        )}
        <button type="button" className="quiet" disabled={busy} onClick={leave}>
          {done ? 'Close' : 'Cancel'}
        </button>
      </div>
      <Refusal error={error} />
    </section>
  );
}
