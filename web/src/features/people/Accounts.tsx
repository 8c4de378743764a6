import { routes } from '@polychron/contract';
import { useInfiniteQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Checkbox, Form, Input } from 'antd';
import { useState } from 'react';
import { call } from '../../ui/api.ts';
import { peopleQuery } from '../../parts/queries.ts';
import { AccountRow } from './AccountRow.tsx';
import { FindField } from '../../ui/FindField.tsx';
import { Refusal } from '../../ui/Refusal.tsx';
import { useMessages } from '../../ui/messages.tsx';
import { useUnfinishedValues } from '../../ui/unfinished.ts';

interface Values {
  account: string;
  name: string;
  password: string;
  systemAdministrator?: boolean;
}

/**
 * Everyone who can sign in, found by name or account; `own` is the account of the one who looks.
 */
export function Accounts({ mayAdd, own }: { mayAdd: boolean; own: string }) {
  const client = useQueryClient();
  const message = useMessages();
  const [search, setSearch] = useState('');
  const [adding, setAdding] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const pages = useInfiniteQuery(peopleQuery(search));
  const typed = useUnfinishedValues<Partial<Values>>({ key: 'newAccount', words: 'New account' }, {}, [
    'password',
  ]);
  const add = async (values: Values): Promise<void> => {
    setError(null);
    try {
      const made = await call(routes.addPerson, { body: values });
      void message.success(
        `${made.name} can sign in as ${made.account}. Roles are given in a library's members.`,
      );
      typed.done();
      setAdding(false);
      await client.invalidateQueries({ queryKey: ['people'] });
    } catch (refusal) {
      setError(refusal);
    }
  };
  return (
    <section aria-label="Accounts">
      <div className="acts accounts-head">
        <FindField what="an account" by="name or account" value={search} onChange={setSearch} />
        {mayAdd && !adding && <Button onClick={() => setAdding(true)}>New account</Button>}
      </div>
      {adding && (
        <Form
          layout="vertical"
          requiredMark={false}
          className="account-form"
          initialValues={typed.initialValues}
          onValuesChange={typed.onValuesChange}
          onFinish={(values: Values) => void add(values)}
        >
          <div className="form-line">
            <Form.Item name="name" label="Name" rules={[{ required: true, message: 'Say who it is.' }]}>
              <Input maxLength={300} />
            </Form.Item>
            <Form.Item
              name="account"
              label="Account"
              rules={[{ required: true, message: 'An account needs a name to sign in with.' }]}
            >
              <Input maxLength={60} autoComplete="off" />
            </Form.Item>
            <Form.Item
              name="password"
              label="First password"
              rules={[{ required: true, min: 8, message: 'At least 8 characters.' }]}
            >
              <Input.Password autoComplete="new-password" />
            </Form.Item>
            <Form.Item name="systemAdministrator" valuePropName="checked" label="Rights">
              <Checkbox>manage people and libraries</Checkbox>
            </Form.Item>
          </div>
          <Refusal error={error} />
          <div className="acts">
            <Button type="primary" htmlType="submit">
              Create the account
            </Button>
            <button type="button" className="quiet" onClick={() => setAdding(false)}>
              Cancel
            </button>
          </div>
        </Form>
      )}
      <table className="people-table accounts" aria-label="Accounts">
        <thead>
          <tr>
            <th scope="col">Name</th>
            <th scope="col">Account</th>
            <th scope="col">Groups</th>
            {mayAdd && (
              <th scope="col">
                <span className="unseen">Acts</span>
              </th>
            )}
          </tr>
        </thead>
        <tbody>
          {pages.data?.pages
            .flatMap((page) => page.items)
            .map((person) => (
              <AccountRow key={person.account} person={person} mayChange={mayAdd} own={own} />
            ))}
        </tbody>
      </table>
      {pages.hasNextPage && (
        <button type="button" className="quiet" onClick={() => void pages.fetchNextPage()}>
          More
        </button>
      )}
      <Refusal error={pages.error} />
    </section>
  );
}
