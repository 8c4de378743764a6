import { routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Input } from 'antd';
import { type FormEvent, useState } from 'react';
import { call } from '../../ui/api.ts';
import { Consequences } from '../../ui/Consequences.tsx';
import { Refusal } from '../../ui/Refusal.tsx';
import { date } from '../../ui/when.ts';

/** One's personal tokens for scripts; a secret is shown once. */
export function Tokens() {
  const client = useQueryClient();
  const { data, error } = useQuery({ queryKey: ['tokens'], queryFn: () => call(routes.listTokens) });
  const [name, setName] = useState('');
  const [made, setMade] = useState<string | null>(null);
  const [problem, setProblem] = useState<unknown>(null);
  const [revoking, setRevoking] = useState<{ id: string; name: string } | null>(null);
  const make = async (event: FormEvent): Promise<void> => {
    event.preventDefault();
    setProblem(null);
    try {
      const { token } = await call(routes.makeToken, { body: { name } });
      setMade(token);
      setName('');
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
      <form className="acts token-form" onSubmit={(event) => void make(event)}>
        <Input
          value={name}
          maxLength={300}
          placeholder="What is it for?"
          aria-label="What the token is for"
          onChange={(event) => setName(event.target.value)}
        />
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
      <ul className="account-list">
        {data?.items.map((token) => (
          <li key={token.id}>
            <strong>{token.name}</strong>
            <span className="muted">since {date(token.createdAt)}</span>
            <span className="muted">
              {token.lastUsedAt ? `last used ${date(token.lastUsedAt)}` : 'not used yet'}
            </span>
            <span className="acts">
              <button type="button" className="quiet" onClick={() => setRevoking(token)}>
                Revoke
              </button>
            </span>
          </li>
        ))}
      </ul>
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
