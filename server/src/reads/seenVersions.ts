import type { Version } from '@polychron/core';
import type { Access } from '../access/caller.ts';
import type { Context } from '../context.ts';
import { type SeenThen, versionsAsOf } from '../store/past.ts';
import { type CountedPart, pageOfVisible, visibleNeighbours, type Visible } from '../store/versions.ts';

const sightOf = ({ document: { rules }, actor }: Access) => ({ actor, rules });

/** A page of the versions the actor sees of a document, newest first, from below a place in its history. */
export async function seenPage(context: Context, access: Access, page: CountedPart): Promise<Visible> {
  const { document, past } = access;
  if (!past) return pageOfVisible(context, sightOf(access), document, page);
  const { before, count } = page;
  const all = [...past.seen.values()].reverse();
  const below = all.filter(({ sequence }) => before === null || sequence < before).slice(0, count);
  return { versions: await wholeThen(context, below, past.at), total: all.length };
}

/** The versions right before and after one, among those the actor sees. */
export async function seenNeighbours(
  context: Context,
  access: Access,
  version: Version,
): Promise<{ before: Version | null; after: Version | null }> {
  const { document, past } = access;
  if (!past) return visibleNeighbours(context, sightOf(access), document.id, version.sequence);
  const all = [...past.seen.values()];
  const place = all.findIndex(({ id }) => id === version.id);
  const [before, after] = await Promise.all(
    [all[place - 1], all[place + 1]].map(async (one) =>
      one ? ((await wholeThen(context, [one], past.at))[0] ?? null) : null,
    ),
  );
  return { before: before ?? null, after: after ?? null };
}

/** The newest versions somebody saw of each of these documents, oldest first. */
export async function newestSeenThen(
  context: Context,
  accesses: readonly Access[],
  count: number,
): Promise<Map<string, Visible>> {
  const [first] = accesses;
  if (!first?.past) return new Map();
  const newest = accesses.map(({ document: { id }, past }) => {
    const all = [...(past?.seen.values() ?? [])];
    return { id, shown: all.slice(-count), total: all.length };
  });
  const found = await versionsAsOf(
    context,
    newest.flatMap(({ shown }) => shown.map(({ id }) => id)),
    first.past.at,
  );
  return new Map(
    newest.map(({ id, shown, total }) => [
      id,
      { versions: shown.flatMap((one) => found.get(one.id) ?? []), total },
    ]),
  );
}

async function wholeThen(context: Context, seen: readonly SeenThen[], at: Date): Promise<Version[]> {
  const ids = seen.map(({ id }) => id);
  const found = await versionsAsOf(context, ids, at);
  return ids.flatMap((id) => found.get(id) ?? []);
}
