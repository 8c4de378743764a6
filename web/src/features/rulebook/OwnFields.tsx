import type { Rulebook } from '@polychron/core';
import { XIcon } from '@phosphor-icons/react';
import { Input, Select } from 'antd';
import { useState } from 'react';
import { knownTypes } from '../../parts/fields/ownFields.ts';
import { Choice } from '../../ui/Choice.tsx';
import { choicesOf, choicesText } from './choices.ts';
import { WordField } from './WordField.tsx';

type Fields = Rulebook['fields'];
type Field = Fields[number];

const kinds: readonly (readonly [Field['kind'], string])[] = [
  ['text', 'a text'],
  ['number', 'a number'],
  ['date', 'a date'],
  ['person', 'a person'],
  ['choice', 'a choice'],
  ['yesNo', 'yes or no'],
];

interface Props {
  rules: Pick<Rulebook, 'fields' | 'numberPatterns'>;
  before: Fields;
  onChange: (fields: Fields) => void;
}

/** The fields of the library's own, a sentence each. */
export function OwnFields({ rules, before, onChange }: Props) {
  const { fields } = rules;
  const set = (index: number, field: Field): void =>
    onChange(fields.map((one, at) => (at === index ? field : one)));
  const blank: Field = { name: '', kind: 'text', choices: [], requiredFor: [], administrative: false };
  const [opened, setOpened] = useState(false);
  const changed = JSON.stringify(fields) !== JSON.stringify(before);
  const open = opened || changed;
  const add = (): void => {
    setOpened(true);
    onChange([...fields, blank]);
  };
  const said = open ? 'this' : <strong>{listed(fields.map(({ name }) => name))}</strong>;
  return (
    <>
      <p>
        Besides title, type, subject and review date, a document has the fields{' '}
        {fields.length === 0 ? 'nothing more' : said}
        {open && fields.length > 0 ? ':' : '.'}{' '}
        {fields.length === 0 && (
          <button type="button" className="quiet" onClick={add}>
            add a field
          </button>
        )}
        {fields.length > 0 && !open && (
          <button type="button" className="quiet" onClick={() => setOpened(true)}>
            edit the fields
          </button>
        )}
      </p>
      {open && fields.length > 0 && (
        <>
          <ol className="own-fields">
            {fields.map((field, index) => (
              <li key={index}>
                <div>
                  <FieldSentence
                    field={field}
                    types={knownTypes(rules)}
                    marked={JSON.stringify(field) !== JSON.stringify(before[index])}
                    onChange={(given) => set(index, given)}
                  />
                </div>
                <button
                  type="button"
                  className="icon"
                  aria-label={`Remove the field ${field.name || index + 1}`}
                  onClick={() => onChange(fields.filter((_, at) => at !== index))}
                >
                  <XIcon size={13} />
                </button>
              </li>
            ))}
          </ol>
          <button type="button" className="quiet" onClick={add}>
            another field
          </button>
        </>
      )}
    </>
  );
}

const listed = (names: readonly string[]): string => names.join(', ').replace(/, ([^,]*)$/, ' and $1');

interface SentenceProps {
  field: Field;
  /** Types of documents that are proposed. */
  types: string[];
  marked: boolean;
  onChange: (field: Field) => void;
}

function FieldSentence({ field, types, marked, onChange }: SentenceProps) {
  const { name, kind, choices, requiredFor, administrative } = field;
  const [byType, setByType] = useState(requiredFor !== 'all' && requiredFor.length > 0);
  const [typed, setTyped] = useState(() => choicesText(choices));
  const all = requiredFor === 'all' ? 'all' : 'none';
  const need = byType ? 'types' : all;
  const about = name || 'the field';
  return (
    <>
      <WordField
        name="Name of the field"
        value={name}
        empty="name"
        marked={marked}
        onChange={(given) => onChange({ ...field, name: given })}
      />
      ,{' '}
      <Choice
        name={`Kind of ${about}`}
        value={kind}
        choices={kinds}
        onHover
        onChoose={(value) =>
          onChange({
            ...field,
            kind: kinds.find(([known]) => known === value)?.[0] ?? kind,
            choices: value === 'choice' ? choicesOf(typed) : [],
          })
        }
      />
      ,{' '}
      <Choice
        name={`Who needs ${about}`}
        value={need}
        choices={[
          ['none', 'that may stay empty'],
          ['all', 'that every document needs'],
          ['types', 'that documents of these types need:'],
        ]}
        onHover
        onChoose={(value) => {
          setByType(value === 'types');
          onChange({ ...field, requiredFor: value === 'all' ? 'all' : [] });
        }}
      />
      {need === 'types' && (
        <Select
          mode="tags"
          variant="underlined"
          className="own-types"
          aria-label={`Types that need ${about}`}
          placeholder="press Enter after each"
          value={requiredFor === 'all' ? [] : requiredFor}
          options={types.map((value) => ({ value }))}
          onChange={(named: string[]) => onChange({ ...field, requiredFor: named })}
        />
      )}
      ;{' '}
      <Choice
        name={`How ${about} is kept`}
        value={String(administrative)}
        choices={[
          ['false', 'each change of it is a version'],
          ['true', 'administrative: changed at once, without a version'],
        ]}
        onHover
        onChoose={(value) => onChange({ ...field, administrative: value === 'true' })}
      />
      {kind === 'choice' && (
        <Input.TextArea
          aria-label={`What can be chosen of ${about}`}
          autoSize={{ minRows: 2, maxRows: 8 }}
          placeholder={'One per line; sub-choices after a colon:\nRopes: Haul rope, Track rope'}
          value={typed}
          onChange={(event) => {
            setTyped(event.target.value);
            onChange({ ...field, choices: choicesOf(event.target.value) });
          }}
        />
      )}
    </>
  );
}
