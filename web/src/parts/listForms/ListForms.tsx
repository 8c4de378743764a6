import type { InForceList, InForceQuery, Route } from '@polychron/contract';
import { useState } from 'react';
import { downloadAs, sentenceOf } from '../../ui/api.ts';
import { useMessages } from '../../ui/messages.tsx';

interface Props<P> {
  route: Route<P, InForceQuery, undefined, InForceList>;
  params: P;
  query?: Partial<InForceQuery>;
  /** Another moment than the one that is looked at. */
  asOf?: string;
  /** What the file is called, without its ending. */
  name: string;
}

const forms = [
  ['.csv', 'text/csv'],
  ['.xlsx', 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'],
] as const;

/** The list of what is in force on paper or as a file. */
export function ListForms<P>({ route, params, query = {}, asOf, name }: Props<P>) {
  const message = useMessages();
  const [busy, setBusy] = useState(false);
  const give = async (ending: string, accept: string): Promise<void> => {
    setBusy(true);
    try {
      await downloadAs(route, { params, query, asOf }, { accept, fileName: `${name}${ending}` });
    } catch (refusal) {
      void message.error(sentenceOf(refusal), 8);
    } finally {
      setBusy(false);
    }
  };
  return (
    <span className="list-forms no-print">
      <button type="button" className="quiet" onClick={() => window.print()}>
        Print
      </button>
      {forms.map(([ending, accept]) => (
        <button
          key={ending}
          type="button"
          className="quiet"
          disabled={busy}
          onClick={() => void give(ending, accept)}
        >
          {ending}
        </button>
      ))}
    </span>
  );
}
