import { type Document, type Library, routes } from '@polychron/contract';
import type { QueryClient } from '@tanstack/react-query';
import { create } from 'zustand';
import type { Level } from '@polychron/core';
import type { GivenFields } from '../parts/fields/FieldItems.tsx';
import { sentenceOf, upload, type Upload } from '../ui/api.ts';

/** A file on its way to become a document. */
export interface Sending {
  file: File;
  title: string;
  state: 'waits' | 'sends' | 'made' | 'refused' | 'left';
  share: number;
  made: Document | null;
  problem: string | null;
}
/** What all of them share. */
export interface Common {
  fields: GivenFields;
  comment: string;
  level: Level;
}

interface Uploads {
  library: Pick<Library, 'id' | 'code' | 'name'> | null;
  items: Sending[];
  running: boolean;
  /** Registers files one after another; the client is told what has changed once all are through. */
  start(
    into: { library: Library; client: QueryClient },
    files: { file: File; title: string }[],
    common: Common,
  ): Promise<void>;
  /** Stops with the one being sent; what is registered stays. */
  leave(): void;
  clear(): void;
}

let current: Upload<Document> | null = null;

/** Files registered one after another, each with its outcome; it goes on while one looks at other screens. */
export const useUploads = create<Uploads>()((set, get) => ({
  library: null,
  items: [],
  running: false,
  async start({ library, client }, files, { comment, level, fields }) {
    set({
      library,
      running: true,
      items: files.map((given) => ({ ...given, state: 'waits', share: 0, made: null, problem: null })),
    });
    const change = (index: number, changed: Partial<Sending>): void =>
      set(({ items }) => ({
        items: items.map((item, at) => (at === index ? { ...item, ...changed } : item)),
      }));
    for (const [index, { file, title }] of files.entries()) {
      if (!get().running) {
        change(index, { state: 'left' });
        continue;
      }
      change(index, { state: 'sends' });
      current = upload(
        routes.createDocument,
        { id: library.id },
        {
          file,
          fields: {
            fields: JSON.stringify({ title, ...fields }),
            comment,
            level,
          },
        },
        (share) => change(index, { share }),
      );
      try {
        change(index, { state: 'made', made: await current.done });
      } catch (error) {
        change(index, { state: get().running ? 'refused' : 'left', problem: sentenceOf(error) });
      }
    }
    current = null;
    set({ running: false });
    await client.invalidateQueries({ queryKey: ['documents'] });
    await client.invalidateQueries({ queryKey: ['libraries'] });
  },
  leave() {
    set({ running: false });
    current?.cancel();
  },
  clear() {
    set({ items: [], library: null });
  },
}));
