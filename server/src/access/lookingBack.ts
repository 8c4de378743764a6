import { refuse, type Refusal } from '@polychron/core';
import { actorIn } from './actor.ts';
import type { Access, Asker, LibraryActor } from './caller.ts';
import { libraryOf } from '../store/documents.ts';
import { documentsAsOf, rolesAsOf } from '../store/past.ts';

/** The caller in a library, or whom they look as: with the roles of the moment they look at, and of now. */
export interface LookingBackIn {
  then: LibraryActor;
  now: LibraryActor;
}

/** Refuses a moment that is still to come; null where it is not. */
export function refuseToCome(at: Date, now: Date): Refusal | null {
  if (at.getTime() <= now.getTime()) return null;
  const reason = `${at.toISOString()} is still to come. As of looks at an earlier moment.`;
  return refuse('invalid', 'as-of-future', reason, { asOf: at.toISOString() });
}

/** Who looks at a library as it was. A role that somebody looks as is held at every moment. */
export async function lookingBackIn(
  { context, caller }: Pick<Asker, 'context' | 'caller'>,
  libraryId: string,
  at: Date,
): Promise<LookingBackIn> {
  const now = await actorIn(context, caller, libraryId);
  const asRole = now.lookingAs?.startsWith('role:') ?? false;
  const roles = asRole ? now.roles : await rolesAsOf(context, libraryId, now.id, at);
  return { now, then: { ...now, roles, lookingAt: at } };
}

/** Documents of one library as they were, by id, for whoever looks at them. */
export async function accessesAsOf(
  { context }: Pick<Asker, 'context'>,
  ids: readonly string[],
  viewers: LookingBackIn,
  at: Date,
): Promise<Map<string, Access>> {
  const found = await documentsAsOf(context, ids, { at, viewers });
  return new Map(
    [...found].map(([id, { document, ...past }]) => [id, { document, actor: viewers.then, past }]),
  );
}

/** One document as it was; null where the caller saw nothing of it that they may see now. */
export async function accessAsOf(asker: Asker, documentId: string, at: Date): Promise<Access | null> {
  const libraryId = await libraryOf(asker.context, documentId);
  if (libraryId === null) return null;
  const viewers = await lookingBackIn(asker, libraryId, at);
  return (await accessesAsOf(asker, [documentId], viewers, at)).get(documentId) ?? null;
}
