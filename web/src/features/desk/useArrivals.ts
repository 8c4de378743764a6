import { type DeskFile, routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { ownLibrariesQuery } from '../../parts/queries.ts';
import { sentenceOf, upload, type Upload } from '../../ui/api.ts';

interface Refused {
  name: string;
  problem: string;
}

/** Files on their way to the Desk, one after another, and what became of them. */
export interface Arriving {
  /** Takes more files; null for whoever brings nothing into any library. */
  take: ((files: File[]) => void) | null;
  /** Of the file on its way, 0 to 1; null where none is. */
  share: number | null;
  name: string;
  refused: readonly Refused[];
  /** Ends the sending of this file and of those after it. */
  cancel: () => void;
}

/** Sends files to one's Desk, to be brought into a library later. */
export function useArrivals(): Arriving {
  const client = useQueryClient();
  const { data: libraries } = useQuery(ownLibrariesQuery);
  const works = libraries?.items.some(({ acts }) => acts.checkIn.allowed) ?? false;
  const [share, setShare] = useState<number | null>(null);
  const [name, setName] = useState('');
  const [refused, setRefused] = useState<Refused[]>([]);
  const sending = useRef<Upload<DeskFile> | null>(null);
  const waiting = useRef<File[]>([]);
  const send = async (): Promise<void> => {
    setRefused([]);
    for (let file = waiting.current.shift(); file; file = waiting.current.shift()) {
      const { name: sent } = file;
      setName(sent);
      setShare(0);
      sending.current = upload(routes.addDeskFile, {}, { file }, setShare);
      try {
        await sending.current.done;
      } catch (error) {
        const problem = sentenceOf(error);
        setRefused((so) => [...so, { name: sent, problem }]);
      }
    }
    sending.current = null;
    setShare(null);
    await client.invalidateQueries({ queryKey: ['desk'] });
  };
  const take = (files: File[]): void => {
    waiting.current.push(...files);
    if (!sending.current) void send();
  };
  const cancel = (): void => {
    waiting.current = [];
    sending.current?.cancel();
  };
  return { take: works ? take : null, share, name, refused, cancel };
}
