import type { Asker } from '../access/caller.ts';
import { keepLook } from '../store/looks.ts';

/** Keeps that the caller has looked at what was in force at a moment: now at the latest. */
export async function performLook({ context, caller }: Asker, at: Date): Promise<void> {
  const now = context.clock();
  await keepLook(context, caller.id, at.getTime() > now.getTime() ? now : at);
}
