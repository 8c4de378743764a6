import { routes, type Token } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Input } from 'antd';
import { type FormEvent, useState } from 'react';
import { Link } from 'react-router-dom';
import { Tokens as TokenLines } from '../../parts/signIns/SignInLists.tsx';
import { sessionQuery } from '../../parts/queries.ts';
import { call } from '../../ui/api.ts';
import { Choice } from '../../ui/Choice.tsx';
import { Consequences } from '../../ui/Consequences.tsx';
import { MomentField } from '../../ui/dates.tsx';
import { Refusal } from '../../ui/Refusal.tsx';
import { useUnfinished } from '../../ui/unfinished.ts';

const fresh: { name: string; scope: Token['scope']; until: string | null } = {
  name: '',
  scope: 'work',
  until: null,
};

/** One's personal tokens for scripts; a secret is shown once. */
export function Tokens() {
  const client = useQueryClient();
  const { data: session } = useQuery(sessionQuery);
  const { data, error } = useQuery({ queryKey: ['tokens'], queryFn: () => call(routes.listTokens) });
  const form = useUnfinished({ key: 'token', words: 'New token' }, fresh);
  const wanted = form.value;
  const { name, scope, until } = wanted;
  const [made, setMade] = useState<string | null>(null);
  const [problem, setProblem] = useState<unknown>(null);
  const [revoking, setRevoking] = useState<{ id: string; name: string } | null>(null);
  const make = async (event: FormEvent): Promise<void> => {
    event.preventDefault();
    setProblem(null);
    try {
      const { token } = await call(routes.makeToken, { body: wanted });
      setMade(token);
      form.done();
      await client.invalidateQueries({ queryKey: ['tokens'] });
    } catch (refusal) {
      setProblem(refusal);
    }
  };
  const revoke = async (): Promise<void> => {
    if (!revoking) return;
    await call(routes.revokeToken, { params: { id: revoking.id } });
    await client.invalidateQueries({ queryKey: ['tokens'] });
  };
  return (
    <>
      <p className="muted">
        A script signs in with a token in place of a password.{' '}
        <a href="/api/docs" target="_blank" rel="noreferrer">
          The HTTP interface
        </a>
      </p>
      <p className="muted">
        A program that opens network folders signs in with your account and a token as the password, and shows
        what you see as a drive, to be read and worked in: <code>{session?.drive}</code>.{' '}
        <Link to="/account/drive">Try it</Link>
      </p>
      <form className="acts token-form" onSubmit={(event) => void make(event)}>
        <Input
          value={name}
          maxLength={300}
          placeholder="What is it for?"
          aria-label="What the token is for"
          onChange={(event) => form.change({ name: event.target.value })}
        />
        <span className="token-choices">
          It{' '}
          <Choice
            name="What the token may do"
            value={scope}
            choices={[
              ['work', 'reads and works as you'],
              ['read', 'only reads'],
            ]}
            onChoose={(chosen) => form.change({ scope: chosen === 'read' ? 'read' : 'work' })}
          />{' '}
          until{' '}
          <MomentField
            name="When the token ends"
            value={until}
            empty="revoked"
            onChange={(moment) => form.change({ until: moment })}
          />
        </span>
        <Button htmlType="submit" disabled={name.trim() === ''}>
          Create a token
        </Button>
      </form>
      {made && (
        <p className="token" role="status">
          Copy it now, it is not shown again: <code>{made}</code>
        </p>
      )}
      <Refusal error={error ?? problem} />
      <TokenLines items={data?.items ?? []} onRevoke={setRevoking} />
      {revoking && (
        <Consequences
          outcomes={[{ label: `Revoke ${revoking.name}`, act: revoke }]}
          onLeave={() => setRevoking(null)}
        >
          Scripts that use “{revoking.name}” are refused from now on.
        </Consequences>
      )}
    </>
  );
}
