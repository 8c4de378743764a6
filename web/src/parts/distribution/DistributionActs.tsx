import { type Distribution, type Document, routes } from '@polychron/contract';
import { numberWords } from '@polychron/core';
import { useInfiniteQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { call, PageError } from '../../ui/api.ts';
import { Consequences } from '../../ui/Consequences.tsx';
import { Refusal } from '../../ui/Refusal.tsx';
import { date, fullTime } from '../../ui/when.ts';
import { Word } from '../../ui/Word.tsx';
import { ListForms } from '../listForms/ListForms.tsx';
import { distributionQuery, readRest, refreshDocument } from '../queries.ts';
import { useUnfinished } from '../../ui/unfinished.ts';
import { aboutDocument } from '../unfinished/about.ts';
import { type Named, NamedFields, namedWords } from './NamedFields.tsx';
import './distribution.css';

/** Who is to read what is in force, who has, who has not; saying who, and reminding them. */
export function DistributionActs({ document }: { document: Document }) {
  const [open, setOpen] = useState<'list' | 'form' | null>(null);
  const { readers, acts, inForce } = document;
  const may = acts.distribute.allowed;
  if (!may && readers === null) return null;
  const label = inForce && numberWords(inForce.label);
  return (
    <section aria-label="Distribution">
      <h2>
        <Word of="Distribution" />
      </h2>
      {readers ? (
        <p>
          {readers.total - readers.outstanding} of {readers.total} {readers.total === 1 ? 'has' : 'have'}{' '}
          confirmed reading {label}.
        </p>
      ) : (
        <p className="muted">Nobody is asked to confirm having read it.</p>
      )}
      <div className="acts">
        {readers !== null && (
          <button
            type="button"
            className="quiet"
            aria-expanded={open === 'list'}
            onClick={() => setOpen(open === 'list' ? null : 'list')}
          >
            {open === 'list' ? 'Roll up' : 'Who has, who has not'}
          </button>
        )}
        {may && open !== 'form' && (
          <button type="button" className="quiet" onClick={() => setOpen('form')}>
            {readers ? 'Change who reads it' : 'Ask people to read it'}
          </button>
        )}
      </div>
      {open === 'list' && <Readers document={document} />}
      {open === 'form' && <Asking document={document} onLeave={() => setOpen(null)} />}
    </section>
  );
}

const itemsOf = (list: { data?: { pages: Distribution[] } | undefined }): Distribution['items'] =>
  list.data?.pages.flatMap(({ items }) => items) ?? [];

/** Everybody who is to read it: those who have not confirmed it first. */
function Readers({ document }: { document: Document }) {
  const client = useQueryClient();
  const list = useInfiniteQuery(distributionQuery(document.id));
  const [reminding, setReminding] = useState(false);
  const { id, number, acts } = document;
  const outstanding = list.data?.pages[0]?.outstanding ?? 0;
  const remind = async (): Promise<void> => {
    await call(routes.remindReaders, { params: { id }, body: {} });
    await refreshDocument(client, id);
  };
  return (
    <>
      <Refusal error={list.error} />
      <table className="readers" aria-label="Asked to read">
        <thead>
          <tr>
            <th>Name</th>
            <th>Asked</th>
            <th>Confirmed</th>
          </tr>
        </thead>
        <tbody>
          {itemsOf(list).map(({ person, groups, since, readAt }) => (
            <tr key={person.account}>
              <td title={groups && `as one of ${groups}`}>{person.name}</td>
              <td title={fullTime(since)}>{date(since)}</td>
              <td title={readAt ? fullTime(readAt) : ''}>
                {readAt ? date(readAt) : <strong>not yet</strong>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="acts">
        {list.hasNextPage && (
          <button type="button" className="quiet" onClick={() => void list.fetchNextPage()}>
            More names
          </button>
        )}
        {acts.distribute.allowed && outstanding > 0 && !reminding && (
          <button type="button" className="quiet" onClick={() => setReminding(true)}>
            Remind them
          </button>
        )}
        <ListForms
          route={routes.readDistribution}
          params={{ id }}
          name={`${number} distribution`}
          readAll={() => readRest(list)}
        />
      </div>
      {reminding && (
        <Consequences
          outcomes={[{ label: `Remind ${outstanding}`, act: remind, primary: true }]}
          onLeave={() => setReminding(false)}
        >
          {outstanding === 1 ? 'One person has' : `${outstanding} people have`} not confirmed it yet and{' '}
          {outstanding === 1 ? 'is' : 'are'} told once more, by mail too as they chose.
        </Consequences>
      )}
    </>
  );
}

/** Names who is to read the document. */
function Asking({ document, onLeave }: { document: Document; onLeave: () => void }) {
  const client = useQueryClient();
  const { id, library, inForce } = document;
  const list = useInfiniteQuery(distributionQuery(id));
  const present = list.data?.pages[0]?.named;
  const form = useUnfinished<{ chosen: Named | null }>(
    aboutDocument(document, 'distribute', 'Who is to read'),
    { chosen: null },
  );
  const { chosen } = form.value;
  if (!present) return <Refusal error={list.error} />;
  const before: Named = { people: present.people.map(({ account }) => account), groups: present.groups };
  const named = chosen ?? before;
  const nobody = named.people.length + named.groups.length === 0;
  const save = async (): Promise<void> => {
    if (chosen === null) throw new PageError('It is as it was. Name somebody, or take somebody out.');
    await call(routes.distribute, { params: { id }, body: named });
    await client.invalidateQueries({ queryKey: ['distribution', id] });
    await refreshDocument(client, id);
  };
  return (
    <Consequences
      outcomes={[{ label: nobody ? 'Ask nobody any more' : 'Ask them to read it', act: save, primary: true }]}
      form={form}
      onLeave={onLeave}
    >
      <span className="naming">
        <NamedFields
          label="To be read by"
          libraryId={library.id}
          value={named}
          known={present.people}
          onChange={(named) => form.change({ chosen: named })}
        />
        <span>
          {inForce
            ? `Whoever is new is asked to read ${numberWords(inForce.label)} now`
            : 'They are asked once something is in force'}
          ; everybody named is asked at each new version in force.
        </span>
        {present.people.length + present.groups.length > 0 && (
          <span className="muted">Until now: {namedWords(present)}.</span>
        )}
      </span>
    </Consequences>
  );
}
