import { type Document, namesOnPath } from '@polychron/contract';
import { Link } from 'react-router-dom';
import { Choice } from '../../ui/Choice.tsx';
import type { RegisterFilter } from '../../parts/queries.ts';

interface Props {
  filter: RegisterFilter;
  /** Whether voided documents can be asked for. */
  seesVoided: boolean;
  documents: Document[];
  total: number | null;
  /** Whether the total is an estimate. */
  about: boolean;
  /** How many one sees in all; null where that is not known, and they come by number. */
  all: number | null;
  onChange: (changed: Partial<Record<keyof RegisterFilter, string>>) => void;
}

/** The filter as one sentence whose underlined words are the choices. */
export function FilterSentence({ filter, seesVoided, documents, total, about, all, onChange }: Props) {
  const subjects = [
    ...new Set([
      ...documents.flatMap((document) => document.fields.subject ?? []),
      ...(filter.subject ? [filter.subject] : []),
    ]),
  ].sort();
  const holders = new Map(
    documents.flatMap(({ custody }) =>
      custody && !custody.mine ? [[custody.holder.account, custody.holder.name]] : [],
    ),
  );
  const overdue = filter.overdue ? 'overdue' : (filter.heldBy ?? '');
  return (
    <h1 className="sentence">
      {seesVoided ? (
        <Choice
          name="Void"
          value={filter.voided ? 'true' : ''}
          choices={[
            ['', 'Documents'],
            ['true', 'Voided documents'],
          ]}
          onChoose={(value) => onChange({ voided: value })}
        />
      ) : (
        'Documents'
      )}{' '}
      about{' '}
      <Choice
        value={filter.path ?? filter.subject ?? ''}
        choices={[
          ['', 'anything'],
          ...(filter.path ? [[filter.path, namesOnPath(filter.path).join(' › ')] as [string, string]] : []),
          ...subjects.map((subject): [string, string] => [subject, subject]),
        ]}
        name="Subject"
        onChoose={(value) => {
          if (value !== filter.path) onChange({ subject: value, path: '' });
        }}
      />
      ,{' '}
      <Choice
        name="Custody"
        value={overdue}
        choices={[
          ['', 'held or not'],
          ['anyone', 'held by anyone'],
          ['me', 'held by me'],
          ['nobody', 'held by nobody'],
          ['overdue', 'held and overdue'],
          ...[...holders].map(([account, name]): [string, string] => [account, `held by ${name}`]),
        ]}
        onChoose={(value) =>
          onChange({ overdue: value === 'overdue' ? 'true' : '', heldBy: value === 'overdue' ? '' : value })
        }
      />
      ,{' '}
      <Choice
        name="Review"
        value={filter.review ?? ''}
        choices={[
          ['', 'due for review or not'],
          ['due', 'due for review'],
          ['passed', 'past their review date'],
        ]}
        onChoose={(value) => onChange({ review: value })}
      />
      , whose latest version is{' '}
      <Choice
        name="State"
        value={filter.state ?? ''}
        choices={[
          ['', 'in any state'],
          ['draft', 'a draft'],
          ['inApproval', 'in approval'],
          ['approved', 'approved, to be published'],
          ['rejected', 'rejected'],
          ['published', 'published'],
        ]}
        onChoose={(value) => onChange({ state: value })}
      />
      {all === null ? (
        ', by number'
      ) : (
        <>
          , sorted by{' '}
          <Choice
            name="Order"
            value={filter.sort ?? ''}
            choices={[
              ['', 'number'],
              ['title', 'title'],
              ['changed', 'last change'],
            ]}
            onChoose={(value) => onChange({ sort: value })}
          />
        </>
      )}
      {filter.q && (
        <>
          , with{' '}
          <button
            type="button"
            className="choice"
            title="Take this condition away"
            onClick={() => onChange({ q: '' })}
          >
            “{filter.q}”
          </button>
        </>
      )}
      .
      {total !== null && (
        <small>
          {filter.q && (
            <>
              <Link to={`/find?q=${encodeURIComponent(filter.q)}`}>in all libraries</Link>{' '}
            </>
          )}
          {all === null && `${total} ${total === 1 ? 'document' : 'documents'}${about ? ' and more' : ''}`}
          {all !== null &&
            (total === all
              ? `${total} ${total === 1 ? 'document' : 'documents'}`
              : `${about ? 'about ' : ''}${total} of ${all}`)}
        </small>
      )}
    </h1>
  );
}
