import { Button, Input } from 'antd';
import { type ReactNode, useState } from 'react';
import { Refusal } from './Refusal.tsx';
import { useEscape } from './useEscape.ts';
import { useFocusBack } from './useFocusBack.ts';
import './Consequences.css';

/** One way to go on, its outcome on the button. */
export interface Outcome {
  label: string;
  act: (comment: string) => Promise<unknown>;
  primary?: boolean;
}

/** What is typed into it, kept while it is not sent (`useUnfinished`). */
interface CommentForm {
  value: { comment: string };
  change: (some: { comment: string }) => void;
  done: () => void;
}

type Props = {
  /** What will be, in a sentence. */
  children: ReactNode;
  outcomes: Outcome[];
  onLeave: () => void;
} & (
  | {
      /** Asks for a comment; shown in the empty field. */
      commentHint: string;
      form: CommentForm;
    }
  | { commentHint?: undefined; form?: { done: () => void } }
);

/**
 * The one form of confirmation: what an act would do, said before it is done. Leaving it changes nothing, and
 * what was typed stays. Enter behind the comment does it, where there is one way to go on.
 */
export function Consequences({ children, outcomes, onLeave, ...asked }: Props) {
  const comment = asked.commentHint === undefined ? '' : asked.form.value.comment;
  const [busy, setBusy] = useState<string | null>(null);
  const [error, setError] = useState<unknown>(null);
  useEscape(onLeave);
  useFocusBack();
  const go = async (outcome: Outcome): Promise<void> => {
    setBusy(outcome.label);
    setError(null);
    try {
      await outcome.act(comment);
      asked.form?.done();
      onLeave();
    } catch (refusal) {
      setError(refusal);
      setBusy(null);
    }
  };
  return (
    <section className="consequences" aria-label="Consequences">
      <p>{children}</p>
      {asked.commentHint !== undefined && (
        <Input
          autoFocus
          dir="auto"
          value={comment}
          maxLength={4000}
          placeholder={asked.commentHint}
          aria-label={asked.commentHint}
          onChange={(event) => asked.form.change({ comment: event.target.value })}
          onPressEnter={() => {
            const [first] = outcomes;
            if (first && outcomes.length === 1 && busy === null) void go(first);
          }}
        />
      )}
      <div className="acts">
        {outcomes.map((outcome) => (
          <Button
            key={outcome.label}
            type={outcome.primary ? 'primary' : 'default'}
            loading={busy === outcome.label}
            disabled={busy !== null}
            onClick={() => void go(outcome)}
          >
            {outcome.label}
          </Button>
        ))}
        <button type="button" className="quiet" onClick={onLeave}>
          Cancel
        </button>
      </div>
      <Refusal error={error} />
    </section>
  );
}
