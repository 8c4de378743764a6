import type { SignInWays } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import { useLocation, useNavigate, useSearchParams } from 'react-router-dom';
import { Mark } from '../../ui/Mark.tsx';
import { waysQuery } from '../../parts/queries.ts';
import { PasswordForm, ProviderWay, useSignIn } from '../../parts/signingIn/SignInForms.tsx';
import { Refusal } from '../../ui/Refusal.tsx';
import './signIn.css';

/** Sign-in; leads back to where one wanted to go. */
export function SignInPage() {
  const { state } = useLocation() as { state: { from?: string } | null };
  const [search] = useSearchParams();
  const { data: ways } = useQuery(waysQuery);
  const refused = search.get('refused');
  const to = state?.from ?? '/';
  const goOn = useGoOn(to);
  useEffect(() => {
    document.title = 'Sign in · Polychron';
  }, []);
  return (
    <main className="sign-in">
      <section className="sign-in-form">
        <h1>
          <Mark /> Polychron
        </h1>
        <p className="lead">
          Which version is in force, who may see the next one, and what happened in between.
        </p>
        {refused && (
          <p className="refusal" role="alert">
            {words[refused] ?? words['provider-refused']}
          </p>
        )}
        {ways?.passwords !== false && <PasswordForm onDone={goOn} />}
        <ProviderWay ways={ways} to={to} />
        {ways?.demo && <DemoAccounts {...ways.demo} to={to} />}
      </section>
      <SignInDrawing />
    </main>
  );
}

/** Why a provider's sign-in was refused, in words. */
const words: Record<string, string> = {
  'provider-refused': 'The sign-in was not confirmed. Begin it again here.',
  'provider-away': 'The sign-in service cannot be reached now. Try again in a minute.',
  'no-provider': 'Single sign-on is not set up.',
  'account-unmapped': 'You have no account here yet. Ask a system administrator.',
  'account-taken':
    'There is an account of your name already, and it is not linked to you. Ask a system administrator.',
  'account-closed': 'Your account is closed. Ask a system administrator.',
  'claims-unfit': 'The sign-in service names no account that can be had here. Ask a system administrator.',
};

/** Begins the session of whoever signed in, and goes on to where they wanted to go. */
function useGoOn(to: string): () => void {
  const navigate = useNavigate();
  const client = useQueryClient();
  return () => {
    client.clear();
    void navigate(to, { replace: true });
  };
}

/** The demo's accounts, each a press. */
function DemoAccounts({ accounts, password, to }: NonNullable<SignInWays['demo']> & { to: string }) {
  const { error, busy, signIn } = useSignIn(useGoOn(to));
  return (
    <div className="sign-in-demo">
      <p className="muted">Or look around in the demo as</p>
      <ul>
        {accounts.map(({ account, name }) => (
          <li key={account}>
            <button
              type="button"
              className="quiet"
              disabled={busy}
              onClick={() => void signIn({ account, password })}
            >
              {name}
            </button>{' '}
            <span className="muted">{account}</span>
          </li>
        ))}
      </ul>
      <Refusal error={error} />
    </div>
  );
}

/** A Strand as an ornament: drafts rise, one version after another is in force. */
function SignInDrawing() {
  const points = [
    [60, 1],
    [150, 0],
    [230, 1],
    [300, 1],
    [390, 0],
    [470, 1],
    [540, 1],
    [620, 1],
    [710, 0],
  ] as const;
  const y = (line: number): number => (line === 0 ? 120 : 220);
  return (
    <svg
      className="sign-in-drawing"
      viewBox="-20 40 940 330"
      aria-hidden="true"
      preserveAspectRatio="xMidYMid meet"
    >
      <path className="s-line" d="M20 120H880M20 220H880" />
      <path className="s-bar" d="M150 120H710" />
      <path className="s-bar s-bar-governs" d="M710 120H830" />
      {points.map(([x, line], index) => {
        const next = points[index + 1];
        return line === 1 && next?.[1] === 0 ? (
          <path
            key={x}
            className="s-rise"
            d={`M${x} 220C${(x + next[0]) / 2} 220 ${(x + next[0]) / 2} 120 ${next[0]} 120`}
          />
        ) : null;
      })}
      <path className="s-arc" d="M150 128C170 330 450 330 470 228" />
      {points.map(([x]) => (
        <path key={x} className="s-hair" d={`M${x} 226L${x * 0.7 + 60 + (x % 7) * 12} 340`} />
      ))}
      <path className="s-axis" d="M20 340H880" />
      <path className="s-now" d="M830 70V346" />
      {points.map(([x, line], index) => (
        <text key={x} className={line === 0 ? 'd-upper' : 'd-lower'} x={x} y={y(line) - 18}>
          {['0.1', '1.0', '1.1', '1.2', '2.0', '2.1', '2.2', '2.3', '3.0'][index]}
        </text>
      ))}
      {points.map(([x, line]) => (
        <circle
          key={x}
          className={line === 0 ? 'd-solid' : 'd-open'}
          cx={x}
          cy={y(line)}
          r={line === 0 ? 10 : 9}
        />
      ))}
    </svg>
  );
}
