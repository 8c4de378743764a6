import { routes, type ShelfItem } from '@polychron/contract';
import { numberWords } from '@polychron/core';
import { useQueryClient } from '@tanstack/react-query';
import { Button, Input, Progress } from 'antd';
import { useRef, useState } from 'react';
import { call, isAway, isSignedOut, sentenceOf } from '../../ui/api.ts';
import { useFocusBack } from '../../ui/useFocusBack.ts';
import { useUnfinished } from '../../ui/unfinished.ts';
import { bytes } from '../../ui/when.ts';

interface Props {
  /** What is recovered, as the form is called: "Undo what revision 3 thinned". */
  name: string;
  /** Where what is typed is kept. */
  keptAs: string;
  total: number;
  size: number;
  /** Versions of it that are still on the shelf, behind so many that were refused. */
  next: (refused: number) => Promise<readonly ShelfItem[]>;
  onLeave: () => void;
}

/**
 * Recovers many: version by version, with how far it is, and to be left at any moment; what has come back by
 * then stays.
 */
export function RecoverAll({ name, keptAs, next, onLeave, ...begun }: Props) {
  // As they were when it was pressed: what has come back is on the shelf no more.
  const [pressed, setPressed] = useState<typeof begun | null>(null);
  const { total, size } = pressed ?? begun;
  const client = useQueryClient();
  const form = useUnfinished({ key: keptAs, words: name }, { comment: '' });
  const { comment } = form.value;
  const [done, setDone] = useState<number | null>(null);
  const [left, setLeft] = useState<string[]>([]);
  const stopped = useRef(false);
  useFocusBack();
  const go = async (): Promise<void> => {
    const refused = new Map<string, string>();
    const settled = new Set<string>();
    let back = 0;
    setPressed(begun);
    setDone(0);
    setLeft([]);
    stopped.current = false;
    for (;;) {
      const more = (await next(refused.size)).filter(({ versionId }) => !settled.has(versionId));
      if (more.length === 0 || stopped.current) break;
      for (const { document, versionId, label } of more) {
        if (stopped.current) break;
        try {
          const params = { id: document.id, v: versionId };
          await call(routes.recoverVersion, { params, body: { reason: comment } });
          back += 1;
        } catch (refusal) {
          // Without a server, or a session, the rest waits for another press.
          if (isAway(refusal) || isSignedOut(refusal)) throw refusal;
          refused.set(versionId, `${document.number} ${numberWords(label)}: ${sentenceOf(refusal)}`);
        }
        settled.add(versionId);
        setDone(back);
      }
    }
    form.done();
    setLeft([...refused.values()]);
    void client.invalidateQueries();
    if (refused.size === 0 && !stopped.current) onLeave();
  };
  const press = async (): Promise<void> => {
    try {
      await go();
    } catch (error) {
      setDone(null);
      setLeft([sentenceOf(error)]);
      void client.invalidateQueries();
    }
  };
  const versions = (count: number): string => `${count} ${count === 1 ? 'version' : 'versions'}`;
  return (
    <form className="consequences" aria-label={name} onSubmit={(event) => event.preventDefault()}>
      <p>
        {versions(total)} {total === 1 ? 'comes' : 'come'} back, {bytes(size)}. Each is sheltered, never
        thinned, until somebody ends that; where a limit was wrong, change it too, or later versions go by it.
      </p>
      <Input
        dir="auto"
        value={comment}
        maxLength={4000}
        aria-label="Why are they wanted back?"
        placeholder="Why are they wanted back?"
        onChange={(event) => form.change({ comment: event.target.value })}
      />
      {done !== null && (
        <Progress
          percent={Math.round((done / Math.max(1, total)) * 100)}
          size="small"
          aria-label="Recovered"
        />
      )}
      {left.length > 0 && (
        <ul className="refusal" role="alert">
          {left.slice(0, 20).map((one) => (
            <li key={one}>{one}</li>
          ))}
          {left.length > 20 && <li>and {left.length - 20} more</li>}
        </ul>
      )}
      <div className="acts">
        <Button type="primary" disabled={comment.trim() === '' || done !== null} onClick={() => void press()}>
          Recover {versions(total)}
        </Button>
        <button
          type="button"
          className="quiet"
          onClick={() => {
            stopped.current = true;
            onLeave();
          }}
        >
          {done === null ? 'Cancel' : 'Stop here'}
        </button>
      </div>
    </form>
  );
}
