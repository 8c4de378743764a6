import { routes, type Session, type SignInWays } from '@polychron/contract';
import { Button, Form, Input } from 'antd';
import { useState } from 'react';
import { call } from '../../ui/api.ts';
import { Refusal } from '../../ui/Refusal.tsx';

interface SigningIn {
  error: unknown;
  busy: boolean;
  signIn: (body: { account: string; password: string }) => Promise<void>;
}

/** Signs in, and tells who is in by now. */
export function useSignIn(onDone: (session: Session) => void): SigningIn {
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const signIn: SigningIn['signIn'] = async (body) => {
    setBusy(true);
    setError(null);
    try {
      onDone(await call(routes.signIn, { body }));
    } catch (refusal) {
      setError(refusal);
    } finally {
      setBusy(false);
    }
  };
  return { error, busy, signIn };
}

/** Account and password; `account` is who was signed in before. */
export function PasswordForm({ account, onDone }: { account?: string; onDone: (session: Session) => void }) {
  const { error, busy, signIn } = useSignIn(onDone);
  return (
    <Form
      name="sign-in"
      layout="vertical"
      requiredMark={false}
      initialValues={{ account }}
      onFinish={(values: { account: string; password: string }) => void signIn(values)}
    >
      <Form.Item label="Account" name="account" rules={[{ required: true, message: 'Type your account.' }]}>
        <Input autoComplete="username" autoFocus={account === undefined} maxLength={60} />
      </Form.Item>
      <Form.Item
        label="Password"
        name="password"
        rules={[{ required: true, message: 'Type your password.' }]}
      >
        <Input.Password autoComplete="current-password" maxLength={1000} />
      </Form.Item>
      <Refusal error={error} />
      <Button type="primary" htmlType="submit" loading={busy}>
        Sign in
      </Button>
    </Form>
  );
}

/** By the provider of identities, where there is one; it leads back to an address. */
export function ProviderWay({ ways, to }: { ways: SignInWays | undefined; to: string }) {
  if (!ways?.provider) return null;
  return (
    <Button href={`/api/v1/session/provider?to=${encodeURIComponent(to)}`}>
      Sign in with {ways.provider}
    </Button>
  );
}
