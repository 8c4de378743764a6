import { routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Form, Input, Select } from 'antd';
import { rolesThatMay } from '@polychron/core';
import { useState } from 'react';
import { call } from '../../ui/api.ts';
import { ownLibrariesQuery, peopleQuery } from '../../parts/queries.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { useInfiniteQuery } from '@tanstack/react-query';
import { useMessages } from '../../ui/messages.tsx';
import { useUnfinishedValues } from '../../ui/unfinished.ts';

interface Values {
  name: string;
  code: string;
  purpose?: string;
  like?: string;
  controller: string;
}

/** A new library, with the default rules or those of another, and its first controller. */
export function NewLibrary({ onLeave, onMade }: { onLeave: () => void; onMade: (id: string) => void }) {
  const client = useQueryClient();
  const message = useMessages();
  const { data: libraries } = useQuery(ownLibrariesQuery);
  const [search, setSearch] = useState('');
  const people = useInfiniteQuery(peopleQuery(search, true));
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const typed = useUnfinishedValues<Partial<Values>>({ key: 'newLibrary', words: 'New library' }, {});
  const make = async ({ name, code, purpose, like, controller }: Values): Promise<void> => {
    setBusy(true);
    setError(null);
    try {
      const rulebook = like ? (await call(routes.readRulebook, { params: { id: like } })).rulebook : {};
      const made = await call(routes.createLibrary, {
        body: { name, code, purpose: purpose ?? '', rulebook },
      });
      await call(routes.setMembers, {
        params: { id: made.id },
        body: [{ account: controller, roles: [...rolesThatMay('manageMembers')] }],
      });
      typed.done();
      void message.success(`${made.name} was created. Its controller sets rules and members.`);
      await client.invalidateQueries();
      onMade(made.id);
    } catch (refusal) {
      setError(refusal);
      setBusy(false);
    }
  };
  return (
    <section aria-label="New library" className="new-library">
      <h2>New library</h2>
      <Form
        layout="vertical"
        requiredMark={false}
        disabled={busy}
        initialValues={typed.initialValues}
        onValuesChange={typed.onValuesChange}
        onFinish={(values: Values) => void make(values)}
      >
        <Form.Item
          name="name"
          label="Name"
          rules={[{ required: true, whitespace: true, message: 'A library needs a name.' }]}
        >
          <Input maxLength={300} />
        </Form.Item>
        <Form.Item
          name="code"
          label="Code, in front of its document numbers"
          normalize={(value: string) => value.toUpperCase()}
          rules={[
            {
              required: true,
              pattern: /^[A-Z][A-Z0-9]{0,9}$/,
              message: 'One to ten capital letters or digits, a letter first.',
            },
          ]}
        >
          <Input maxLength={10} className="number" />
        </Form.Item>
        <Form.Item name="purpose" label="Purpose">
          <Input.TextArea maxLength={2000} autoSize={{ minRows: 2 }} />
        </Form.Item>
        <Form.Item name="like" label="Rules">
          <Select
            allowClear
            placeholder="the default rules"
            options={libraries?.items.map(({ id, name }) => ({ value: id, label: `like ${name}` }))}
          />
        </Form.Item>
        <Form.Item
          name="controller"
          label="Its first controller"
          rules={[{ required: true, message: 'A library needs a controller.' }]}
        >
          <Select
            showSearch={{ filterOption: false, onSearch: setSearch }}
            options={people.data?.pages
              .flatMap((page) => page.items)
              .map(({ account, name }) => ({ value: account, label: `${name} · ${account}` }))}
          />
        </Form.Item>
        <Refusal error={error} />
        <div className="acts">
          <Button type="primary" htmlType="submit" loading={busy}>
            Create the library
          </Button>
          <button type="button" className="quiet" onClick={onLeave}>
            Cancel
          </button>
        </div>
      </Form>
    </section>
  );
}
