import { routes } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import { addressOf } from '../ui/api.ts';
import { readAgain, refreshDocument } from '../parts/queries.ts';

/** The stream that a page opens before anything else; null once it is listened to, or where there is none. */
let early: EventSource | null = null;

/**
 * Opens the stream of events while the page is still fetched: what is asked for once it has begun need not be
 * read a second time. Where nobody is signed in the server refuses it, and it stays closed.
 */
export function openEarly(): void {
  if (!document.hidden && location.pathname !== '/sign-in') early = new EventSource(addressOf(routes.events));
}

/** The stream that was opened early, if it still goes on; else a new one. */
function openStream(): EventSource {
  const opened = early;
  early = null;
  return opened && opened.readyState !== EventSource.CLOSED
    ? opened
    : new EventSource(addressOf(routes.events));
}

/**
 * Hears of what other people do, and reads again what shows it (server-sent events). What is being typed
 * lives in its own fields and stays. The browser connects again by itself; what happened meanwhile is read
 * then.
 */
export function useLive(signedIn: boolean): void {
  const client = useQueryClient();
  useEffect(() => {
    if (!signedIn) return undefined;
    let source: EventSource | null = null;
    const everything = (): void => {
      void readAgain(client, {
        predicate: ({ queryKey }) => !['session', 'reading', 'compare'].includes(String(queryKey[0])),
      });
    };
    // A browser holds few connections to one server, so a page that nobody looks at has none. What happened
    // until it is connected is read then.
    const connect = (): void => {
      if (document.hidden) {
        source?.close();
        source = null;
        return;
      }
      if (!source || source.readyState === EventSource.CLOSED) {
        source = openStream();
        listen(source);
      }
    };
    const listen = (to: EventSource): void => {
      to.addEventListener('ready', everything);
      to.addEventListener('everything', everything);
      to.addEventListener('document', (event) => {
        void refreshDocument(
          client,
          (JSON.parse((event as MessageEvent<string>).data) as { document: string }).document,
        );
      });
      to.addEventListener('library', () => {
        for (const name of [
          'libraries',
          'own-libraries',
          'rulebook',
          'rulebook-history',
          'documents',
          'document',
        ])
          void readAgain(client, { queryKey: [name] });
      });
      to.addEventListener('notices', () => {
        void readAgain(client, { queryKey: ['desk'] });
      });
    };
    connect();
    document.addEventListener('visibilitychange', connect);
    return () => {
      document.removeEventListener('visibilitychange', connect);
      source?.close();
    };
  }, [client, signedIn]);
}
