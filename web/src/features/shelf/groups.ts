import type { ShelfItem } from '@polychron/contract';

/** Thinned versions that stand as one row: a publication and the drafts that led to it, or one version. */
export interface Group {
  items: readonly [ShelfItem, ...ShelfItem[]];
  /** The last of them: the publication, where it was thinned too. */
  head: ShelfItem;
}

/**
 * Puts together what follows one another on the shelf, is of one document, goes for good at one moment, and
 * led to one publication: drafts `2.x` to 3.0 (stepped numbers, docs/rules.md). The order stays.
 */
export function groupsOf(items: readonly ShelfItem[]): Group[] {
  const groups: Group[] = [];
  for (const item of items) {
    const last = groups.at(-1);
    if (last && placeOf(last.head) === placeOf(item)) {
      groups[groups.length - 1] = { items: [...last.items, item], head: item };
    } else groups.push({ items: [item], head: item });
  }
  return groups;
}

function placeOf({ document, label, thinned }: ShelfItem): string {
  const [, major = label, minor = '0'] = /^(\d+)\.(\d+)$/.exec(label) ?? [];
  const publication = minor === '0' ? major : String(Number(major) + 1);
  return [document.id, thinned.until, publication].join(' ');
}
