import type { InForceList } from '@polychron/contract';

type Item = InForceList['items'][number];

/** Documents of one library and category: the first subject, and the next. */
export interface Section {
  key: string;
  library: Item['document']['library'];
  subject: string;
  groups: { key: string; subject: string | null; items: Item[] }[];
}

const none = 'without a subject';

/** What is in force by library, first subject and second: in the order of names, what has none last. */
export function sectionsOf(items: readonly Item[]): Section[] {
  const sections = new Map<string, Section>();
  for (const item of items) {
    const { library } = item.document;
    const [subject = none, next = null] = item.subject;
    const key = `${library.code} ${subject}`;
    const section = sections.get(key) ?? { key, library, subject, groups: [] };
    sections.set(key, section);
    const group = section.groups.find((one) => one.subject === next);
    if (group) group.items.push(item);
    else section.groups.push({ key: `${key} ${next ?? ''}`, subject: next, items: [item] });
  }
  const byName = (a: string | null, b: string | null): number => {
    if (a === b) return 0;
    if (a === null || a === none) return -1;
    if (b === null || b === none) return 1;
    return a.localeCompare(b, 'en');
  };
  const inOrder = [...sections.values()].sort(
    (a, b) =>
      a.library.name.localeCompare(b.library.name, 'en') ||
      Number(a.subject === none) - Number(b.subject === none) ||
      a.subject.localeCompare(b.subject, 'en'),
  );
  for (const { groups } of inOrder) groups.sort((a, b) => byName(a.subject, b.subject));
  return inOrder;
}
