import { MailForm } from './MailForm.tsx';
import { PasswordForm } from './PasswordForm.tsx';
import { Sessions } from './Sessions.tsx';
import { Tokens } from './Tokens.tsx';
import './account.css';

/** One's own account: the password, notices by mail, where one is signed in, tokens for scripts. */
export function AccountPage() {
  return (
    <main className="account">
      <h1>My account</h1>
      <section aria-labelledby="account-password">
        <h2 id="account-password">Password</h2>
        <PasswordForm />
      </section>
      <section aria-labelledby="account-mail">
        <h2 id="account-mail">Notices by mail</h2>
        <MailForm />
      </section>
      <section aria-labelledby="account-sessions">
        <h2 id="account-sessions">Where you are signed in</h2>
        <Sessions />
      </section>
      <section aria-labelledby="account-tokens">
        <h2 id="account-tokens">Tokens for scripts</h2>
        <Tokens />
      </section>
    </main>
  );
}
