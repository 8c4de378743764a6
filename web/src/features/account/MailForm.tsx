import { type MailChoice, routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Input } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router-dom';
import { mailChoiceQuery } from '../../parts/queries.ts';
import { call } from '../../ui/api.ts';
import { Choice } from '../../ui/Choice.tsx';
import { Refusal } from '../../ui/Refusal.tsx';

const choices: [MailChoice['mail'], string][] = [
  ['atOnce', 'each at once'],
  ['daily', 'together, once a day'],
  ['none', 'not at all'],
];

/** How notices come to one by mail, and where to. */
export function MailForm() {
  const client = useQueryClient();
  const { data, error } = useQuery(mailChoiceQuery);
  const [typed, setTyped] = useState<string | null>(null);
  const [problem, setProblem] = useState<unknown>(null);
  if (!data) return <Refusal error={error} />;
  const address = typed ?? data.address ?? '';
  const save = async (body: { mail: MailChoice['mail']; address?: string | null }): Promise<void> => {
    setProblem(null);
    try {
      client.setQueryData(mailChoiceQuery.queryKey, await call(routes.chooseMail, { body }));
      setTyped(null);
    } catch (refusal) {
      setProblem(refusal);
    }
  };
  return (
    <>
      <p>
        Notices come to you by mail{' '}
        <Choice
          name="How notices come by mail"
          value={data.mail}
          choices={choices}
          onChoose={(chosen) =>
            void save({ mail: choices.find(([name]) => name === chosen)?.[0] ?? data.mail })
          }
        />
        {data.mail === 'none' ? '.' : <>, to {data.sentTo}.</>} On your <Link to="/desk">Desk</Link> they
        always appear at once; every message is kept among the <Link to="/outbox">Messages</Link>.
      </p>
      <form
        className="acts mail-form"
        onSubmit={(event) => {
          event.preventDefault();
          void save({ mail: data.mail, address: address.trim() === '' ? null : address.trim() });
        }}
      >
        <Input
          type="email"
          aria-label="Mail address"
          value={address}
          maxLength={254}
          placeholder={data.sentTo}
          onChange={(event) => setTyped(event.target.value)}
        />
        <Button htmlType="submit" disabled={address === (data.address ?? '')}>
          Use this address
        </Button>
      </form>
      <Refusal error={problem} />
    </>
  );
}
