import type { Route } from '@polychron/contract';
import { flushSync } from 'react-dom';
import { useState } from 'react';
import { downloadAs, sentenceOf } from '../../ui/api.ts';
import { useMessages } from '../../ui/messages.tsx';

interface Props<P, Q, A> {
  route: Route<P, Q, undefined, A>;
  params: P;
  query?: Partial<Q>;
  /** Another moment than the one that is looked at. */
  asOf?: string;
  /** What the file is called, without its ending. */
  name: string;
  /** Reads the rest of the list, so that all of it is on paper. */
  readAll: () => Promise<void>;
}

const forms = [
  ['.csv', 'text/csv'],
  ['.xlsx', 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'],
] as const;

/** A list on paper or as a file. */
export function ListForms<P, Q, A>({ route, params, query = {}, asOf, name, readAll }: Props<P, Q, A>) {
  const message = useMessages();
  const [busy, setBusy] = useState(false);
  const give = async (act: () => Promise<unknown>): Promise<void> => {
    setBusy(true);
    try {
      await act();
    } catch (refusal) {
      void message.error(sentenceOf(refusal), 8);
    } finally {
      setBusy(false);
    }
  };
  return (
    <span className="list-forms no-print">
      <button
        type="button"
        className="quiet"
        disabled={busy}
        onClick={() =>
          void give(async () => {
            await readAll();
            // What was read last stands on the page before it is printed.
            flushSync(() => setBusy(false));
            window.print();
          })
        }
      >
        Print
      </button>
      {forms.map(([ending, accept]) => (
        <button
          key={ending}
          type="button"
          className="quiet"
          disabled={busy}
          onClick={() =>
            void give(() =>
              downloadAs(route, { params, query, asOf }, { accept, fileName: `${name}${ending}` }),
            )
          }
        >
          {ending}
        </button>
      ))}
    </span>
  );
}
