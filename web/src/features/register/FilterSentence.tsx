import type { Document } from '@polychron/contract';
import { Dropdown } from 'antd';
import type { RegisterFilter } from '../../shared/queries.ts';

interface Props { filter: RegisterFilter; documents: Document[]; total: number | null; all: number; onChange: (changed: Partial<Record<keyof RegisterFilter, string>>) => void }

/** The filter as one sentence whose underlined words are the choices. */
export function FilterSentence({ filter, documents, total, all, onChange }: Props) {
  const subjects = [...new Set([...documents.flatMap((document) => document.fields.subject ?? []), ...(filter.subject ? [filter.subject] : [])])].sort();
  const holders = new Map(documents.flatMap(({ custody }) => (custody && !custody.mine ? [[custody.holder.account, custody.holder.name]] : [])));
  const overdue = filter.overdue ? 'overdue' : filter.heldBy ?? '';
  return (
    <h1 className="sentence">
      Documents about <Choice value={filter.subject ?? ''} choices={[['', 'anything'], ...subjects.map((subject): [string, string] => [subject, subject])]} name="Subject" onChoose={(value) => onChange({ subject: value })} />,{' '}
      <Choice name="Custody" value={overdue}
        choices={[['', 'held or not'], ['anyone', 'held by anyone'], ['me', 'held by me'], ['nobody', 'held by nobody'], ['overdue', 'held and overdue'], ...[...holders].map(([account, name]): [string, string] => [account, `held by ${name}`])]}
        onChoose={(value) => onChange({ overdue: value === 'overdue' ? 'true' : '', heldBy: value === 'overdue' ? '' : value })} />,{' '}
      in <Choice name="State" value={filter.state ?? ''} choices={[['', 'any state'], ['draft', 'draft'], ['published', 'its published version']]} onChoose={(value) => onChange({ state: value })} />, by{' '}
      <Choice name="Order" value={filter.sort ?? ''} choices={[['', 'number'], ['title', 'title'], ['changed', 'last change']]} onChoose={(value) => onChange({ sort: value })} />
      {filter.q && <>, with <button type="button" className="choice" title="Take this condition away" onClick={() => onChange({ q: '' })}>“{filter.q}”</button></>}.
      {total !== null && <small>{total === all ? `${total} ${total === 1 ? 'document' : 'documents'}` : `${total} of ${all}`}</small>}
    </h1>
  );
}

function Choice({ value, choices, name, onChoose }: { value: string; choices: [string, string][]; name: string; onChoose: (value: string) => void }) {
  const shown = choices.find(([key]) => key === value)?.[1] ?? value;
  return (
    <Dropdown trigger={['click']} menu={{ items: choices.map(([key, label]) => ({ key: key || ' ', label })), selectedKeys: [value || ' '], onClick: ({ key }) => onChoose(key.trim()) }}>
      <button type="button" className="choice" aria-label={`${name}: ${shown}`} aria-haspopup="menu">{shown}</button>
    </Dropdown>
  );
}
