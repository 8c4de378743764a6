import type { About } from '../../ui/unfinished.ts';

/** What a form about a document is called among those that are unfinished. */
export const aboutDocument = (
  { id, number, title }: { id: string; number: string; title: string },
  kind: string,
  words: string,
): About => ({ key: `${kind} ${id}`, words: `${words}, ${number} ${title}` });
