import { type Document, routes } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { Button } from 'antd';
import { useNavigate } from 'react-router-dom';
import { sentenceOf, upload } from '../../ui/api.ts';
import { useMessages } from '../../ui/messages.tsx';
import { forget, typedText, useTypedInto } from '../../ui/unfinished.ts';

/**
 * What was typed into a check-out that ended before it could be sent: it is still on this device, and goes to
 * one's Desk or away.
 */
export function Unsent({ document, besides }: { document: Document; besides?: string }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const message = useMessages();
  const typed = useTypedInto(document.id).filter(({ key }) => key !== besides);
  const keep = async (key: string, text: string): Promise<void> => {
    try {
      await upload(routes.addDeskFile, {}, { file: new File([text], document.fileName) }).done;
      forget(key);
      await client.invalidateQueries({ queryKey: ['desk'] });
      void navigate('/desk');
    } catch (refusal) {
      void message.error(sentenceOf(refusal), 8);
    }
  };
  return typed.map(({ key }) => {
    const text = typedText(key)?.text ?? '';
    return (
      <section key={key} className="consequences" aria-label="Not sent">
        <p>
          Your check-out ended before all you typed could be sent. It is kept on this device:{' '}
          {text.split('\n').length} lines, ending “{text.trimEnd().slice(-60)}”.
        </p>
        <div className="acts">
          <Button onClick={() => void keep(key, text)}>Put it on my Desk</Button>
          <button type="button" className="quiet" onClick={() => forget(key)}>
            Throw it away
          </button>
        </div>
      </section>
    );
  });
}
