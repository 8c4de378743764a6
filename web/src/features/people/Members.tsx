import { routes, type Library, type Member, type MemberView } from '@polychron/contract';
import { type Role, roles as allRoles } from '@polychron/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Checkbox, Select } from 'antd';
import { useState } from 'react';
import { ask, ProblemError } from '../../ui/api.ts';
import { groupsQuery, membersQuery, peopleQuery } from '../../parts/queries.ts';
import { has } from '../../ui/has.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { AboutLibrary } from './AboutLibrary.tsx';
import { FindField } from '../../ui/FindField.tsx';
import { useTakingOver } from './TakingOver.tsx';
import { useInfiniteQuery } from '@tanstack/react-query';
import { useMessages } from '../../ui/messages.tsx';
import { useUnfinished } from '../../ui/unfinished.ts';

/** So many members are found by looking. */
const fewMembers = 12;
/** So many members are laid out at a time. */
const atATime = 50;

/** What a new member is until more is ticked. */
const usualRole: Role = 'reader';

const withArticle = (role: Role): string => `${/^[aeiou]/.test(role) ? 'an' : 'a'} ${role}`;

const keyOf = (member: MemberView): string =>
  member.account ? `person ${member.account}` : `group ${member.group}`;

/** Members of a library by role. What is ticked is set with one act, which says what it changes. */
export function Members({ library }: { library: Library }) {
  const client = useQueryClient();
  const message = useMessages();
  const { data } = useQuery(membersQuery(library.id));
  const [sought, setSought] = useState('');
  const [shown, setShown] = useState(atATime);
  const [search, setSearch] = useState('');
  const people = useInfiniteQuery(peopleQuery(search, true)).data?.pages.flatMap((page) => page.items) ?? [];
  const groups = useInfiniteQuery(groupsQuery(search)).data?.pages.flatMap((page) => page.items) ?? [];
  const form = useUnfinished<{ draft: { members: MemberView[]; tag: string } | null }>(
    { key: `members ${library.id}`, words: `Members of ${library.name}` },
    { draft: null },
  );
  const { draft } = form.value;
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const takingOver = useTakingOver();
  if (!data) return null;
  const members = draft?.members ?? data.members;
  const edit = (changed: MemberView[]): void =>
    form.change({ draft: { members: changed, tag: draft?.tag ?? data.tag } });
  const toggle = (member: MemberView, role: Role): void =>
    edit(
      members.map((one) =>
        keyOf(one) !== keyOf(member)
          ? one
          : {
              ...one,
              roles: allRoles.filter((each) =>
                each === role ? !one.roles.includes(role) : one.roles.includes(each),
              ),
            },
      ),
    );
  const add = (key: string): void => {
    const account = key.startsWith('person ') ? key.slice(7) : undefined;
    const person = people.find((one) => one.account === account);
    const group = groups.find((one) => `group ${one.name}` === key);
    // Whoever is added stands first, where it is seen among many.
    setSought('');
    if (person) edit([{ account: person.account, name: person.name, roles: [usualRole] }, ...members]);
    if (group)
      edit([
        { group: group.name, name: group.name, roles: [usualRole], people: group.people.length },
        ...members,
      ]);
  };
  const save = async (): Promise<void> => {
    setBusy(true);
    setError(null);
    const body = members
      .filter(({ roles }) => roles.length > 0)
      .map(({ account, group, roles }): Member =>
        account ? { account, roles } : { group: group ?? '', roles },
      );
    try {
      const ifMatch = draft?.tag ?? data.tag;
      const { query } = takingOver;
      await ask(routes.setMembers, { params: { id: library.id }, query, body, ifMatch });
      // What was set is read anew before one can go on from it; what else shows it follows.
      await client.fetchQuery({ ...membersQuery(library.id), staleTime: 0 });
      form.done();
      takingOver.forget();
      void client.invalidateQueries();
      void message.success(`The members of ${library.name} are set.`);
    } catch (refusal) {
      setError(refusal);
      takingOver.hear(refusal);
      if (refusal instanceof ProblemError && refusal.problem.status === 412)
        await client.invalidateQueries({ queryKey: ['members', library.id] });
    } finally {
      setBusy(false);
    }
  };
  const fitting = members.filter(({ name, account = '' }) => has([name, account], sought));
  const known = new Set(members.map(keyOf));
  const offered = [
    ...groups.map((group) => ({
      value: `group ${group.name}`,
      label: `${group.name} (group of ${group.people.length})`,
    })),
    ...people.map((person) => ({
      value: `person ${person.account}`,
      label: `${person.name} · ${person.account}`,
    })),
  ].filter(({ value }) => !known.has(value));
  const changes = draft ? differenceOf(data.members, members) : [];
  return (
    <section aria-label={`Members of ${library.name}`}>
      <AboutLibrary library={library} />
      {members.length > fewMembers && (
        <FindField what="a member" by="name or account" value={sought} onChange={setSought} />
      )}
      {fitting.length === 0 && sought !== '' && <p className="muted">No member fits.</p>}
      <table className="people-table" aria-label="Members by role">
        <thead>
          <tr>
            <th scope="col">Member</th>
            {allRoles.map((role) => (
              <th key={role} scope="col">
                {role}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {fitting.slice(0, shown).map((member) => (
            <tr key={keyOf(member)} className={member.roles.length === 0 ? 'going' : ''}>
              <th scope="row">
                {member.name} {member.closed && <span className="muted">account closed</span>}{' '}
                <span className="muted">{member.account ?? `group of ${member.people ?? 0}`}</span>
              </th>
              {allRoles.map((role) => (
                <td key={role}>
                  <Checkbox
                    checked={member.roles.includes(role)}
                    aria-label={`${member.name}: ${role}`}
                    onChange={() => toggle(member, role)}
                  />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {fitting.length > shown && (
        <button type="button" className="quiet" onClick={() => setShown(shown + atATime)}>
          More
        </button>
      )}
      <Select
        className="people-add"
        showSearch={{ filterOption: false, onSearch: setSearch }}
        value={null}
        placeholder="Add a person or group"
        aria-label="Add a person or group"
        options={offered}
        onChange={(key: string | null) => {
          if (key) add(key);
        }}
      />
      <Refusal error={error} />
      {changes.length > 0 && (
        <section className="consequences" aria-label="Consequences">
          <p>{changes.join(' ')}</p>
          {takingOver.field}
          <div className="acts">
            <Button type="primary" loading={busy} onClick={() => void save()}>
              Set {changes.length === 1 ? 'this change' : `${changes.length} changes`}
              {takingOver.words}
            </Button>
            <button
              type="button"
              className="quiet"
              onClick={() => {
                form.done();
                setError(null);
                takingOver.forget();
              }}
            >
              Throw these choices away
            </button>
          </div>
        </section>
      )}
    </section>
  );
}

/** What would change, a sentence each. */
function differenceOf(before: readonly MemberView[], after: readonly MemberView[]): string[] {
  const was = new Map(before.map((member) => [keyOf(member), member.roles]));
  return after.flatMap((member) => {
    const held = was.get(keyOf(member)) ?? [];
    const [gained, lost] = [
      member.roles.filter((role) => !held.includes(role)),
      held.filter((role) => !member.roles.includes(role)),
    ];
    if (member.roles.length === 0)
      return held.length > 0 ? [`${member.name} is no member any more and sees nothing of the library.`] : [];
    return [
      ...(gained.length > 0 ? [`${member.name} becomes ${gained.map(withArticle).join(' and ')}.`] : []),
      ...(lost.length > 0 ? [`${member.name} is no longer ${lost.map(withArticle).join(' or ')}.`] : []),
    ];
  });
}
