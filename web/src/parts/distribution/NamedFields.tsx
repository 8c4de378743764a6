import { useQuery } from '@tanstack/react-query';
import { Select } from 'antd';
import { PeopleField } from '../fields/PeopleField.tsx';
import { membersQuery } from '../queries.ts';

/** People by account and groups by name. */
export interface Named {
  people: string[];
  groups: string[];
}

interface Props {
  /** Stands before the fields: what people and groups are named for. */
  label: string;
  libraryId: string;
  value: Named;
  /** Who stands in the field before any list is read. */
  known: { account: string; name: string }[];
  onChange: (named: Named) => void;
}

/** People and groups of a library to be named with a document. */
export function NamedFields({ label, libraryId, value, known, onChange }: Props) {
  const { data } = useQuery(membersQuery(libraryId));
  const groups = (data?.members ?? []).flatMap((member) =>
    'group' in member && member.group ? [member.group] : [],
  );
  return (
    <>
      {label}{' '}
      <span className="named-fields">
        <PeopleField
          libraryId={libraryId}
          label={label}
          empty="people"
          known={known}
          value={value.people}
          onChange={(people) => onChange({ ...value, people })}
        />
        {(groups.length > 0 || value.groups.length > 0) && (
          <Select
            mode="multiple"
            aria-label={`${label}: groups`}
            placeholder="groups"
            value={value.groups}
            options={groups.map((name) => ({ value: name, label: name }))}
            onChange={(chosen) => onChange({ ...value, groups: chosen })}
          />
        )}
      </span>
    </>
  );
}

interface NamesGiven {
  people: readonly { name: string }[];
  groups: readonly string[];
}

/** Names of people, and of groups as such. */
export const namesOf = ({ people, groups }: NamesGiven): string[] => [
  ...people.map(({ name }) => name),
  ...groups.map((group) => `the group ${group}`),
];

/** People and groups in words. */
export function namedWords(given: NamesGiven): string {
  const names = namesOf(given);
  return names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;
}
