import { routes, type Document } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useState } from 'react';
import { addressOf, call, download, sentenceOf } from '../../ui/api.ts';
import { refreshDocument } from '../queries.ts';
import { day } from '../../ui/when.ts';
import { useMessages } from '../../ui/messages.tsx';

interface Wish {
  reason: string;
  until: string | null;
  /** What is worked on where the latest version was withdrawn. */
  base?: 'inForce' | 'latest';
}

/** The version one would work on: the latest; what is in force, where that was withdrawn. */
export const baseOf = ({ latest, inForce }: Document): Document['latest'] =>
  latest.withdrawn && inForce ? inForce : latest;

/** Why one works on another version than the latest, which was withdrawn; null where it is the latest. */
export const whyNotLatest = ({ latest }: Document, base: string | null): string | null =>
  base !== null && base !== latest.label ? (latest.withdrawn?.why ?? null) : null;

/** Checking out in one act: takes custody and downloads the file to work on. */
export function useCheckOut(): {
  /** Whether it was checked out. */
  checkOut: (document: Document, wish?: Wish) => Promise<boolean>;
  busy: string | null;
} {
  const client = useQueryClient();
  const message = useMessages();
  const [busy, setBusy] = useState<string | null>(null);
  const checkOut = useCallback(
    async (document: Document, wish?: Wish) => {
      setBusy(document.id);
      try {
        const custody = await call(routes.checkOut, {
          params: { id: document.id },
          body: {
            ...(wish?.reason ? { reason: wish.reason } : {}),
            ...(wish?.until ? { until: wish.until } : {}),
            ...(wish?.base ? { base: wish.base } : {}),
          },
        });
        download(addressOf(routes.workingCopy, { params: { id: document.id }, query: { marked: true } }));
        const numbers = [document.toCome?.minor, document.toCome?.major].filter(Boolean).join(' or ');
        const why = whyNotLatest(document, custody.base);
        const from = why && ` You work on ${custody.base}, in force, not on ${document.latest.label}. ${why}`;
        void message.success(
          `${document.number} is yours${custody.until ? ` to ${day(custody.until)}` : ''}. It checks in as ${numbers}.${from ?? ''}`,
          why ? 12 : undefined,
        );
        return true;
      } catch (error) {
        void message.error(sentenceOf(error), 8);
        return false;
      } finally {
        setBusy(null);
        await refreshDocument(client, document.id);
      }
    },
    [client, message],
  );
  return { checkOut, busy };
}
