import { type Document, routes } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { call } from '../../ui/api.ts';
import { useMessages } from '../../ui/messages.tsx';
import { refreshDocument } from '../queries.ts';

/** Ends one's own check-out without a version, and says where the document stands. */
export function useGiveBack(): (document: Document) => Promise<void> {
  const client = useQueryClient();
  const message = useMessages();
  return async (document) => {
    await call(routes.giveBack, { params: { id: document.id } });
    void message.success(
      `${document.number} is free again; it stands at ${document.latest.label} as before.`,
    );
    await refreshDocument(client, document.id);
  };
}
