import { type ProviderMapping as Mapping, routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Checkbox, Input } from 'antd';
import { useState } from 'react';
import { call } from '../../ui/api.ts';
import { Refusal } from '../../ui/Refusal.tsx';

/** How a provider's claims are taken: accounts and groups. */
export function ProviderMapping({ name }: { name: string }) {
  const client = useQueryClient();
  const { data, error } = useQuery({
    queryKey: ['provider'],
    queryFn: () => call(routes.readProviderMapping),
  });
  const [draft, setDraft] = useState<Mapping | null>(null);
  const [problem, setProblem] = useState<unknown>(null);
  const [said, setSaid] = useState(false);
  if (!data) return <Refusal error={error} />;
  const mapping = draft ?? data;
  const change = (changed: Partial<Mapping>): void => {
    setSaid(false);
    setDraft({ ...mapping, ...changed });
  };
  const setGroup = (at: number, changed: Partial<Mapping['groups'][number]>): void =>
    change({ groups: mapping.groups.map((each, index) => (index === at ? { ...each, ...changed } : each)) });
  const save = async (): Promise<void> => {
    setProblem(null);
    try {
      await call(routes.mapProvider, { body: mapping });
      await client.invalidateQueries({ queryKey: ['provider'] });
      setDraft(null);
      setSaid(true);
    } catch (refusal) {
      setProblem(refusal);
    }
  };
  return (
    <form
      className="provider-form"
      aria-label={`Sign-in by ${name}`}
      onSubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      <p className="muted">{name} says who somebody is. What becomes of it here:</p>
      <label>
        The account is named by the claim{' '}
        <Input
          value={mapping.accountClaim}
          onChange={(event) => change({ accountClaim: event.target.value })}
        />
      </label>
      <Checkbox
        checked={mapping.makeAccounts}
        onChange={(event) => change({ makeAccounts: event.target.checked })}
      >
        Whoever has no account yet gets one, without roles
      </Checkbox>
      <Checkbox
        checked={mapping.linkAccounts}
        onChange={(event) => change({ linkAccounts: event.target.checked })}
      >
        The first person to sign in with a matching name takes over the existing account
      </Checkbox>
      <label>
        Groups are named by the claim{' '}
        <Input
          value={mapping.groupsClaim}
          onChange={(event) => change({ groupsClaim: event.target.value })}
        />
      </label>
      {mapping.groups.map((each, index) => (
        // Lines have no name of their own until they are saved.
        <div key={index} className="provider-group">
          Who has{' '}
          <Input
            value={each.value}
            aria-label={`Value ${index + 1} of the claim`}
            onChange={(event) => setGroup(index, { value: event.target.value })}
          />{' '}
          is in the group{' '}
          <Input
            value={each.group}
            aria-label={`Group ${index + 1}`}
            onChange={(event) => setGroup(index, { group: event.target.value })}
          />
          <button
            type="button"
            className="quiet"
            aria-label={`Leave out ${each.group || `line ${index + 1}`}`}
            onClick={() => change({ groups: mapping.groups.filter((_, at) => at !== index) })}
          >
            Leave out
          </button>
        </div>
      ))}
      <span className="acts">
        <button
          type="button"
          className="quiet"
          onClick={() => change({ groups: [...mapping.groups, { value: '', group: '' }] })}
        >
          One more group
        </button>
        <Button type="primary" htmlType="submit" disabled={draft === null}>
          Save
        </Button>
        <span role="status" className="muted">
          {said && 'It holds from the next sign-in on.'}
        </span>
      </span>
      <p className="muted">
        At each sign-in these groups follow the claim: joined, left, and made where there are none. Other
        groups are let alone.
      </p>
      <Refusal error={problem} />
    </form>
  );
}
