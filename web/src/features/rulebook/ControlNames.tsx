import { type ControlField, controlFields, type Rulebook, usualControlNames } from '@polychron/core';
import { useState } from 'react';
import { WordField } from './WordField.tsx';

/** What is written into issued copies, as people call it. */
const words: Record<ControlField, string> = {
  number: 'the number',
  title: 'the title',
  version: 'the version',
  status: 'how it stands',
  owner: 'the owner',
  approvers: 'who approved it',
  issueDate: 'since when it is in force',
  reviewDate: 'the review date',
};

interface Props {
  names: Rulebook['controlNames'];
  before: Rulebook['controlNames'];
  onChange: (names: Rulebook['controlNames']) => void;
}

/** What is written into issued copies, and by which names files ask for it. */
export function ControlNames({ names, before, onChange }: Props) {
  const [opened, setOpened] = useState(false);
  const open = opened || JSON.stringify(names) !== JSON.stringify(before);
  return (
    <>
      <p>
        In an issued copy number, title, version, status, owner, approvers and dates are filled in where the
        file has placeholders.{' '}
        {!open && (
          <button type="button" className="quiet" onClick={() => setOpened(true)}>
            names of the placeholders
          </button>
        )}
      </p>
      {open && (
        <ul className="control-names">
          {controlFields.map((field) => (
            <li key={field}>
              <WordField
                name={`Name of ${words[field]}`}
                value={names[field]}
                empty={usualControlNames[field]}
                marked={names[field] !== before[field]}
                onChange={(name) => onChange({ ...names, [field]: name })}
              />{' '}
              {words[field]}
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
