import type { LibraryPeople } from '@polychron/contract';
import type { Role } from '@polychron/core';
import { useQuery } from '@tanstack/react-query';
import { Select } from 'antd';
import { useDeferredValue, useState } from 'react';
import { libraryPeopleQuery } from '../queries.ts';

interface Props {
  libraryId: string;
  /** Only those who hold this role may be chosen. */
  role?: Role | undefined;
  /** Which of the people that are found may be chosen; all of them where it is not said. */
  offers?: (person: LibraryPeople['items'][number]) => boolean;
  /** Said in the empty field. */
  empty?: string;
  /** Who may stand in the field before any list is read. */
  known?: LibraryPeople['items'][number][] | { account: string; name: string }[];
  id?: string;
  /** Whether nobody may be named again. */
  clearable?: boolean;
  /** What the field is, where nothing beside it says so. */
  label?: string;
}

interface Found {
  options: { value: string; label: string }[];
  searching: boolean;
  search: (text: string) => void;
}

/** People of a library to choose among: those whose name or account holds what is typed. */
function usePeople({ libraryId, role, offers, known = [] }: Props): Found {
  const [typed, setTyped] = useState('');
  const q = useDeferredValue(typed.trim());
  const { data, isFetching } = useQuery(libraryPeopleQuery(libraryId, { q, role }));
  const found = data?.items ?? [];
  const people = [...(offers ? found.filter(offers) : found), ...(q === '' ? known : [])];
  const names = new Map(people.map(({ account, name }) => [account, name]));
  return {
    options: [...names].map(([value, name]) => ({ value, label: `${name} (${value})` })),
    searching: isFetching,
    search: setTyped,
  };
}

/** One person of a library, by account; a control of a form. */
export function PersonField({
  value,
  onChange,
  ...props
}: Props & { value?: string; onChange?: (account: string) => void }) {
  const { options, searching, search } = usePeople(props);
  return (
    <Select
      {...(props.id ? { id: props.id } : {})}
      {...(props.label ? { 'aria-label': props.label } : {})}
      showSearch={{ filterOption: false, onSearch: search }}
      placeholder={props.empty}
      loading={searching}
      value={value}
      onChange={onChange}
      allowClear={props.clearable ?? false}
      options={options}
      notFoundContent={searching ? 'Looking …' : 'Nobody of that name can be chosen here.'}
    />
  );
}

/** Several people of a library, by account, in their order; a control of a form. */
export function PeopleField({
  value,
  onChange,
  ...props
}: Props & { value?: string[]; onChange?: (accounts: string[]) => void }) {
  const { options, searching, search } = usePeople(props);
  return (
    <Select
      {...(props.id ? { id: props.id } : {})}
      {...(props.label ? { 'aria-label': props.label } : {})}
      mode="multiple"
      showSearch={{ filterOption: false, onSearch: search }}
      placeholder={props.empty}
      loading={searching}
      value={value}
      onChange={onChange}
      options={options}
      maxCount={50}
      notFoundContent={searching ? 'Looking …' : 'Nobody of that name can be chosen here.'}
    />
  );
}
