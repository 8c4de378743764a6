import { type DeskFile, type Library, type MadeDocument, routes } from '@polychron/contract';
import type { QueryClient } from '@tanstack/react-query';
import { create } from 'zustand';
import type { Level } from '@polychron/core';
import type { GivenValue } from '../parts/fields/ownFields.ts';
import { ProblemError, sentenceOf, upload, type Upload } from '../ui/api.ts';

/** A file on its way to become a document. */
export interface Sending {
  file: File;
  title: string;
  state: 'waits' | 'sends' | 'made' | 'arrived' | 'refused' | 'left';
  share: number;
  made: MadeDocument | null;
  problem: string | null;
}
/** What all of them share. */
export interface Common {
  fields: Record<string, GivenValue>;
  comment: string;
  /** As what they are registered; null: onto the Desk, to be completed there. */
  level: Level | null;
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

let current: Upload<MadeDocument> | Upload<DeskFile> | null = null;

type Outcome = Pick<Sending, 'state' | 'made' | 'problem'>;

/** Registers one file; one whose document needs more fields is put on the Desk, to be completed there. */
async function sendOne(
  libraryId: string,
  file: File,
  { title, fields, comment, level }: Common & { title: string },
  share: (part: number) => void,
): Promise<Outcome> {
  const known = JSON.stringify({ title, ...fields });
  const refused = (error: unknown): Outcome => ({ state: 'refused', made: null, problem: sentenceOf(error) });
  const arrive = async (why: string | null): Promise<Outcome> => {
    const form = { file, fields: { library: libraryId, fields: known } };
    const arriving = upload(routes.addDeskFile, {}, form, share);
    current = arriving;
    await arriving.done;
    return { state: 'arrived', made: null, problem: why };
  };
  if (level === null) return arrive(null).catch(refused);
  const form = { file, fields: { fields: known, comment, level } };
  const making = upload(routes.createDocument, { id: libraryId }, form, share);
  current = making;
  return making.done.then(
    (made): Outcome => ({ state: 'made', made, problem: null }),
    (error: unknown) => (lacksFields(error) ? arrive(sentenceOf(error)).catch(refused) : refused(error)),
  );
}

/** Whether a document was refused because fields were not filled in that it needs. */
const lacksFields = (error: unknown): boolean =>
  error instanceof ProblemError && error.problem.code === 'fields-missing';

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
      const share = (part: number): void => change(index, { share: part });
      const sent = await sendOne(library.id, file, { title, fields, comment, level }, share);
      change(index, sent.state === 'refused' && !get().running ? { ...sent, state: 'left' } : sent);
    }
    current = null;
    set({ running: false });
    await client.invalidateQueries({ queryKey: ['documents'] });
    await client.invalidateQueries({ queryKey: ['libraries'] });
    await client.invalidateQueries({ queryKey: ['desk'] });
  },
  leave() {
    set({ running: false });
    current?.cancel();
  },
  clear() {
    set({ items: [], library: null });
  },
}));
