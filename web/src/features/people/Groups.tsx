import { routes, type Group } from '@polychron/contract';
import { keepPreviousData, useInfiniteQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Input, Select } from 'antd';
import { useState } from 'react';
import { call } from '../../ui/api.ts';
import { Consequences } from '../../ui/Consequences.tsx';
import { groupsQuery, peopleQuery } from '../../parts/queries.ts';
import { Names } from '../../ui/Names.tsx';
import { Refusal } from '../../ui/Refusal.tsx';
import { FindField } from '../../ui/FindField.tsx';
import { useTakingOver } from './TakingOver.tsx';
import { useUnfinished } from '../../ui/unfinished.ts';

/** Groups: people who hold roles together. */
export function Groups({ mayChange }: { mayChange: boolean }) {
  const client = useQueryClient();
  const [sought, setSought] = useState('');
  const pages = useInfiniteQuery({ ...groupsQuery(sought), placeholderData: keepPreviousData });
  const found = pages.data?.pages.flatMap((page) => page.items);
  const [editing, setEditing] = useState<Group | 'new' | null>(null);
  const [removing, setRemoving] = useState<Group | null>(null);
  const takingOver = useTakingOver();
  const remove = async (): Promise<void> => {
    if (!removing) return;
    try {
      await call(routes.removeGroup, { params: { id: removing.id }, query: takingOver.query });
    } catch (refusal) {
      takingOver.hear(refusal);
      throw refusal;
    }
    await client.invalidateQueries();
  };
  return (
    <section aria-label="Groups">
      <Refusal error={pages.error} />
      {((found?.length ?? 0) > 0 || sought !== '') && (
        <FindField what="a group" by="name, person or library" value={sought} onChange={setSought} />
      )}
      {found?.length === 0 && (
        <p className="muted">{sought === '' ? 'There is no group yet.' : 'No group fits.'}</p>
      )}
      <ul className="group-list">
        {found?.map((group) => (
          <li key={group.id}>
            <strong>{group.name}</strong>
            <span>
              <Names names={group.people.map(({ name }) => name)} />
            </span>
            <span className="muted">
              {group.libraries.length > 0 ? `roles in ${group.libraries.join(', ')}` : 'no roles yet'}
            </span>
            {mayChange && (
              <span className="acts">
                <button type="button" className="quiet" onClick={() => setEditing(group)}>
                  Change
                </button>
                <button type="button" className="quiet" onClick={() => setRemoving(group)}>
                  Remove
                </button>
              </span>
            )}
          </li>
        ))}
      </ul>
      {pages.hasNextPage && (
        <button type="button" className="quiet" onClick={() => void pages.fetchNextPage()}>
          More
        </button>
      )}
      {mayChange && editing === null && <Button onClick={() => setEditing('new')}>New group</Button>}
      {editing && (
        <GroupForm
          key={editing === 'new' ? 'new' : editing.id}
          group={editing === 'new' ? null : editing}
          onLeave={() => setEditing(null)}
        />
      )}
      {removing && (
        <Consequences
          outcomes={[{ label: `Remove ${removing.name}${takingOver.words}`, act: remove }]}
          onLeave={() => {
            setRemoving(null);
            takingOver.forget();
          }}
        >
          {removing.people.length} {removing.people.length === 1 ? 'person loses' : 'people lose'} the roles
          they hold only through {removing.name}
          {removing.libraries.length > 0 && <> in {removing.libraries.join(', ')}</>}. Their accounts stay.
          {takingOver.field}
        </Consequences>
      )}
    </section>
  );
}

function GroupForm({ group, onLeave }: { group: Group | null; onLeave: () => void }) {
  const client = useQueryClient();
  const form = useUnfinished<{ name: string; chosen: string[] }>(
    { key: `group ${group?.id ?? 'new'}`, words: group ? `Change ${group.name}` : 'New group' },
    { name: group?.name ?? '', chosen: group?.people.map(({ account }) => account) ?? [] },
  );
  const { name, chosen } = form.value;
  const [search, setSearch] = useState('');
  const people = useInfiniteQuery(peopleQuery(search, true));
  const [error, setError] = useState<unknown>(null);
  const takingOver = useTakingOver();
  const save = async (): Promise<void> => {
    setError(null);
    try {
      const body = { name, people: chosen };
      if (group) await call(routes.changeGroup, { params: { id: group.id }, query: takingOver.query, body });
      else await call(routes.addGroup, { body });
      form.done();
      await client.invalidateQueries();
      onLeave();
    } catch (refusal) {
      setError(refusal);
      takingOver.hear(refusal);
    }
  };
  const names = new Map(
    [...(group?.people ?? []), ...(people.data?.pages.flatMap((page) => page.items) ?? [])].map((person) => [
      person.account,
      person.name,
    ]),
  );
  return (
    <form
      className="group-form"
      aria-label={group ? `Change ${group.name}` : 'New group'}
      onSubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      <Input
        value={name}
        maxLength={120}
        aria-label="Name of the group"
        placeholder="Name of the group"
        onChange={(event) => form.change({ name: event.target.value })}
      />
      <Select
        mode="multiple"
        value={chosen}
        aria-label="People in the group"
        placeholder="People"
        showSearch={{ filterOption: false, onSearch: setSearch }}
        onChange={(people) => form.change({ chosen: people })}
        options={[...names].map(([value, label]) => ({ value, label: `${label} · ${value}` }))}
      />
      {takingOver.field}
      <div className="acts">
        <Button type="primary" htmlType="submit" disabled={name.trim() === ''}>
          {group ? 'Save' : 'Create'}
          {takingOver.words}
        </Button>
        <button type="button" className="quiet" onClick={onLeave}>
          Cancel
        </button>
      </div>
      <Refusal error={error} />
    </form>
  );
}
