import { type PersonView, routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Sessions, Tokens } from '../../parts/signIns/SignInLists.tsx';
import { call } from '../../ui/api.ts';
import { Refusal } from '../../ui/Refusal.tsx';

/** Where somebody is signed in, and by which tokens; each is ended here, at once. */
export function SignIns({ person: { id, name } }: { person: PersonView }) {
  const client = useQueryClient();
  const of = { params: { id } };
  const sessions = useQuery({
    queryKey: ['sign-ins', id, 'sessions'],
    queryFn: () => call(routes.listSessionsOf, of),
  });
  const tokens = useQuery({
    queryKey: ['sign-ins', id, 'tokens'],
    queryFn: () => call(routes.listTokensOf, of),
  });
  const [problem, setProblem] = useState<unknown>(null);
  const after = async (ended: Promise<unknown>): Promise<void> => {
    await ended.catch(setProblem);
    await client.invalidateQueries({ queryKey: ['sign-ins', id] });
  };
  if (!sessions.data || !tokens.data) return <Refusal error={sessions.error ?? tokens.error} />;
  const none = sessions.data.total + tokens.data.total === 0;
  return (
    <section aria-label={`Sign-ins of ${name}`}>
      {none && <p className="muted">{name} is signed in nowhere, and has no token.</p>}
      <Sessions
        items={sessions.data.items}
        onEnd={(session) => after(call(routes.endSessionOf, { params: { id, session } }))}
      />
      <Tokens
        items={tokens.data.items}
        onRevoke={({ id: token }) => void after(call(routes.revokeTokenOf, { params: { id, token } }))}
      />
      <span className="acts">
        {sessions.data.total > 1 && (
          <button type="button" className="quiet" onClick={() => void after(call(routes.endSessionsOf, of))}>
            {sessions.data.items.some(({ here }) => here)
              ? 'Sign out everywhere else'
              : 'Sign out everywhere'}
          </button>
        )}
        {tokens.data.total > 1 && (
          <button type="button" className="quiet" onClick={() => void after(call(routes.revokeTokensOf, of))}>
            Revoke all tokens
          </button>
        )}
      </span>
      <Refusal error={problem} />
    </section>
  );
}
