import { useInfiniteQuery } from '@tanstack/react-query';
import { Select } from 'antd';
import { type ReactNode, useState } from 'react';
import { peopleQuery } from '../../parts/queries.ts';
import { ProblemError } from '../../ui/api.ts';

/** Somebody who takes over. */
interface Successor {
  account: string;
  name: string;
}

interface Props {
  value: Successor | null;
  /** Whose work it is. */
  without?: string;
  onChoose: (successor: Successor | null) => void;
}

/** Who takes over, among people whose account is open. */
export function SuccessorField({ value, without, onChoose }: Props) {
  const [search, setSearch] = useState('');
  const people = useInfiniteQuery(peopleQuery(search, true)).data?.pages.flatMap((page) => page.items) ?? [];
  const others = people.filter(({ account }) => account !== without);
  return (
    <Select
      value={value?.account ?? null}
      className="closing-successor"
      aria-label="Who takes over"
      placeholder="Who takes over?"
      showSearch={{ filterOption: false, onSearch: setSearch }}
      onChange={(account: string | null) =>
        onChoose(others.find((person) => person.account === account) ?? null)
      }
      options={others.map(({ account, name }) => ({ value: account, label: `${name} · ${account}` }))}
    />
  );
}

/** What a change of members or a group needs to ask who takes over. */
interface TakingOver {
  /** What is sent with the change. */
  query: { handOverTo?: string };
  /** What the button says behind the change itself. */
  words: string;
  /** Where it is asked; nothing before it has to be. */
  field: ReactNode;
  /** Hears of a refusal. */
  hear: (refusal: unknown) => void;
  /** Begins anew. */
  forget: () => void;
}

/** Asks who takes over once a change was refused because it would leave work to nobody. */
export function useTakingOver(): TakingOver {
  const [asked, setAsked] = useState(false);
  const [successor, setSuccessor] = useState<Successor | null>(null);
  return {
    query: successor ? { handOverTo: successor.account } : {},
    words: successor ? `, hand over to ${successor.name}` : '',
    field: asked && (
      <span className="closing-line">
        What would be left goes to <SuccessorField value={successor} onChoose={setSuccessor} />
      </span>
    ),
    hear: (refusal) => {
      if (refusal instanceof ProblemError && refusal.problem['takesOver'] === true) setAsked(true);
    },
    forget: () => {
      setAsked(false);
      setSuccessor(null);
    },
  };
}
