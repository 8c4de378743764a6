import { routes } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { Button, Form, Input } from 'antd';
import { useState } from 'react';
import { call } from '../../ui/api.ts';
import { Refusal } from '../../ui/Refusal.tsx';

interface Typed {
  present: string;
  next: string;
  again: string;
}

/** Changes one's password. */
export function PasswordForm() {
  const [form] = Form.useForm<Typed>();
  const client = useQueryClient();
  const [error, setError] = useState<unknown>(null);
  const [state, setState] = useState<'typing' | 'sending' | 'changed'>('typing');
  const change = async ({ present, next }: Typed): Promise<void> => {
    setState('sending');
    setError(null);
    try {
      await call(routes.changePassword, { body: { present, next } });
      form.resetFields();
      setState('changed');
      await client.invalidateQueries({ queryKey: ['sessions'] });
    } catch (refusal) {
      setError(refusal);
      setState('typing');
    }
  };
  return (
    <Form
      form={form}
      layout="vertical"
      requiredMark={false}
      className="password-form"
      onValuesChange={() => setState('typing')}
      onFinish={(typed) => void change(typed)}
    >
      <Form.Item
        label="Present password"
        name="present"
        rules={[{ required: true, message: 'Type your present password.' }]}
      >
        <Input.Password autoComplete="current-password" maxLength={1000} />
      </Form.Item>
      <Form.Item
        label="New password"
        name="next"
        rules={[{ required: true, min: 8, message: 'At least 8 characters.' }]}
      >
        <Input.Password autoComplete="new-password" maxLength={1000} />
      </Form.Item>
      <Form.Item
        label="New password again"
        name="again"
        dependencies={['next']}
        rules={[
          ({ getFieldValue }) => ({
            validator: async (_, value: unknown) => {
              if (value !== getFieldValue('next')) throw new Error('The two differ.');
            },
          }),
        ]}
      >
        <Input.Password autoComplete="new-password" maxLength={1000} />
      </Form.Item>
      <Refusal error={error} />
      <Button type="primary" htmlType="submit" loading={state === 'sending'}>
        Change the password
      </Button>
      <p className="muted" role="status">
        {state === 'changed'
          ? 'Your password is changed, and you are signed out everywhere else.'
          : 'It signs you out everywhere else; tokens stay as they are.'}
      </p>
    </Form>
  );
}
