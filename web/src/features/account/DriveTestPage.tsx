import { routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router-dom';
import { sessionQuery } from '../../parts/queries.ts';
import { call } from '../../ui/api.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { type Need, needs, type Outcome, testDrive } from './driveTest.ts';
import './account.css';

const words: Record<Need, { name: string; help: string }> = {
  address: {
    name: 'Address',
    help: 'The drive does not answer as one. Something between you and the server may let through nothing but GET and POST: ask whoever runs it to let WebDAV (RFC 4918) pass.',
  },
  'sign-in': {
    name: 'Sign-in',
    help: 'Account and token were not taken. A proxy may drop the Authorization header; over a plain connection from elsewhere no password is taken at all: use the address over TLS.',
  },
  lock: {
    name: 'Lock',
    help: 'Your program could not keep others out while it works. Where it is answered 403 your roles let you read only; else ask whoever runs the server to let LOCK and UNLOCK pass.',
  },
  save: {
    name: 'Save',
    help: 'What was saved is not what came back. Your Desk may be full, or something on the way changes what is sent.',
  },
  unlock: {
    name: 'Unlock',
    help: 'The lock was not let go. It ends by itself within an hour; a document’s can be taken back in the page.',
  },
};

function outcomeWords(outcome: Outcome | undefined): string {
  if (!outcome) return 'not tried';
  return outcome.ok ? 'works' : 'does not work';
}

/** Checks, from this browser, what a desktop program needs of the drive. */
export function DriveTestPage() {
  const client = useQueryClient();
  const { data: session } = useQuery(sessionQuery);
  const [outcomes, setOutcomes] = useState<Outcome[]>([]);
  const [state, setState] = useState<'ready' | 'running' | 'done'>('ready');
  const [error, setError] = useState<unknown>(null);
  if (!session) return null;
  const { drive, account } = session;
  const elsewhere = new URL(drive).origin !== window.location.origin;

  const run = async (): Promise<void> => {
    setState('running');
    setOutcomes([]);
    setError(null);
    try {
      // A token of its own, which goes with the test.
      const until = new Date(Date.now() + 600_000).toISOString();
      const { id, token } = await call(routes.makeToken, {
        body: { name: 'Self-test', scope: 'work', until },
      });
      try {
        for await (const outcome of testDrive(drive, account, token))
          setOutcomes((before) => [...before, outcome]);
      } finally {
        await call(routes.revokeToken, { params: { id } });
        await client.invalidateQueries({ queryKey: ['tokens'] });
      }
    } catch (problem) {
      setError(problem);
    } finally {
      setState('done');
    }
  };
  const failed = outcomes.find(({ ok }) => !ok);
  return (
    <main className="account">
      <h1>What a desktop program needs</h1>
      <section aria-label="Self-test">
        <p>
          A program opens the libraries as a drive at <code>{drive}</code>, with your account{' '}
          <code>{account}</code> and a token of <Link to="/account">your account</Link> as the password.
        </p>
        {elsewhere ? (
          <p>
            This page came from another address, and no browser lets it try that one.{' '}
            <a href={new URL('/account/drive', drive).href}>Try it from there</a>: if the browser warns of the
            certificate, your program will too, until the certificate is trusted on this machine.
          </p>
        ) : (
          <p>
            <Button type="primary" loading={state === 'running'} onClick={() => void run()}>
              {state === 'done' ? 'Try again' : 'Try it from this browser'}
            </Button>
          </p>
        )}
        {(state !== 'ready' || outcomes.length > 0) && (
          <ol className="needs" aria-label="Outcomes" aria-live="polite">
            {needs.map((need) => {
              const outcome = outcomes.find((one) => one.need === need);
              return (
                <li key={need}>
                  <span className="need-name">{words[need].name}</span>
                  <span className={outcome && !outcome.ok ? 'alarm' : ''}>{outcomeWords(outcome)}</span>
                  <span className="muted">{outcome?.told}</span>
                  {outcome && !outcome.ok && <p className="need-help">{words[need].help}</p>}
                </li>
              );
            })}
          </ol>
        )}
        {state === 'done' && !failed && outcomes.length === needs.length && (
          <p role="status">Programs on this machine can open, lock and save what you may work on.</p>
        )}
        <Refusal error={error} onLeave={() => setError(null)} />
      </section>
    </main>
  );
}
