import { routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button } from 'antd';
import { del, entries } from 'idb-keyval';
import { useNavigate } from 'react-router-dom';
import { sentenceOf, upload } from '../../ui/api.ts';
import { useMessages } from '../../ui/messages.tsx';

/**
 * What was typed into a check-out that ended before it could be sent: it is still in this browser, and goes
 * to one's Desk or away.
 */
export function Unsent({ keyStart, name }: { keyStart: string; name: string }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const message = useMessages();
  const { data: drafts } = useQuery({
    queryKey: ['unsent', keyStart],
    staleTime: 0,
    queryFn: async () =>
      (await entries<string, { text: string }>())
        .filter(([key]) => key.startsWith(keyStart))
        .map(([key, { text }]) => ({ key, text })),
  });
  const keep = async (key: string, text: string): Promise<void> => {
    try {
      await upload(routes.addDeskFile, {}, { file: new File([text], name) }).done;
      await del(key);
      await client.invalidateQueries({ queryKey: ['desk'] });
      void navigate('/desk');
    } catch (refusal) {
      void message.error(sentenceOf(refusal), 8);
    }
  };
  const drop = async (key: string): Promise<void> => {
    await del(key);
    await client.invalidateQueries({ queryKey: ['unsent'] });
  };
  return drafts?.map(({ key, text }) => (
    <section key={key} className="consequences" aria-label="Not sent">
      <p>
        Your check-out ended before all you typed could be sent. It is kept in this browser:{' '}
        {text.split('\n').length} lines, ending “{text.trimEnd().slice(-60)}”.
      </p>
      <div className="acts">
        <Button onClick={() => void keep(key, text)}>Put it on my Desk</Button>
        <button type="button" className="quiet" onClick={() => void drop(key)}>
          Throw it away
        </button>
      </div>
    </section>
  ));
}
