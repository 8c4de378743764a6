import { type Document, routes } from '@polychron/contract';
import type { Client } from '../client.ts';
import { libraryCalled } from '../find.ts';
import { say } from '../say.ts';

/** Lists libraries, or the documents of one: number, what is in force and latest, who holds it, title. */
export async function list(
  client: Client,
  code: string | undefined,
  { query, mine }: { query?: string; mine?: boolean },
): Promise<void> {
  if (code === undefined) {
    const { items } = await client.call(routes.listLibraries);
    for (const library of items) say(`${library.code}\t${library.name}`);
    return;
  }
  const { id } = await libraryCalled(client, code);
  const heldBy = mine ? (await client.call(routes.readSession)).account : undefined;
  for (let cursor: string | undefined; ;) {
    const asked = { q: query, heldBy, cursor, limit: 200 };
    const { items, next } = await client.call(routes.listDocuments, { params: { id }, query: asked });
    for (const document of items) say(lineOf(document));
    if (next === null) return;
    cursor = next;
  }
}

function lineOf({ number, title, inForce, latest, custody }: Document): string {
  const versions =
    inForce?.label === latest.label ? latest.label : `${inForce?.label ?? '-'} / ${latest.label}`;
  return [number, versions, custody?.holder.name ?? '-', title].join('\t');
}
