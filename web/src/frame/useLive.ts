import { routes } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import { addressOf } from '../shared/api.ts';
import { refreshDocument } from '../shared/queries.ts';

/**
 * Hears of what other people do, and reads again what shows it (server-sent events). What is being typed lives in its own fields and stays.
 * The browser connects again by itself; what happened meanwhile is read then.
 */
export function useLive(signedIn: boolean): void {
  const client = useQueryClient();
  useEffect(() => {
    if (!signedIn) return undefined;
    const source = new EventSource(addressOf(routes.events));
    const everything = (): void => { void client.invalidateQueries({ predicate: ({ queryKey }) => !['session', 'reading', 'compare'].includes(String(queryKey[0])) }); };
    // What happened between a page's first reading and its being connected is read now, too.
    source.addEventListener('ready', everything);
    source.addEventListener('everything', everything);
    source.addEventListener('document', (event) => { void refreshDocument(client, (JSON.parse((event as MessageEvent<string>).data) as { document: string }).document); });
    source.addEventListener('library', () => { for (const name of ['libraries', 'own-libraries', 'rulebook', 'rulebook-history', 'documents', 'document']) void client.invalidateQueries({ queryKey: [name] }); });
    source.addEventListener('notices', () => { void client.invalidateQueries({ queryKey: ['desk'] }); });
    return () => source.close();
  }, [client, signedIn]);
}
