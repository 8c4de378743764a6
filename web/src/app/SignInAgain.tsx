import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useLocation } from 'react-router-dom';
import { waysQuery } from '../parts/queries.ts';
import { PasswordForm, ProviderWay } from '../parts/signingIn/SignInForms.tsx';
import { useSession } from '../ui/session.ts';
import './SignInAgain.css';

/** The sign-in in place, once the session has ended: the page goes on where it was. */
export function SignInAgain({ account }: { account: string }) {
  const client = useQueryClient();
  const { pathname, search } = useLocation();
  const { data: ways } = useQuery(waysQuery);
  const goOn = (signedIn: string): void => {
    if (signedIn !== account) {
      // What is on the page is not theirs to see.
      window.location.assign('/');
      return;
    }
    useSession.getState().begin(account);
    void client.invalidateQueries();
  };
  return (
    <section className="sign-in-again" aria-label="Sign in again">
      <p role="alert">
        Your session has ended. Sign in to go on here: what you typed and chose is still on this page.
      </p>
      {ways?.passwords !== false && (
        <PasswordForm account={account} onDone={(session) => goOn(session.account)} />
      )}
      <ProviderWay ways={ways} to={`${pathname}${search}`} />
    </section>
  );
}
