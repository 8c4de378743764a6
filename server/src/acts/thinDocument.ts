import type { Context } from '../context.ts';
import { transact } from '../store/database.ts';
import { lockDocument } from '../store/documents.ts';
import { Following, publish } from './perform.ts';

/** What one thinning took. */
export interface Thinning {
  versions: number;
  bytes: number;
}

/**
 * Takes a document through what time brings: versions whose moment has come, then thinning by the rules in
 * force.
 */
export async function catchUpDocument(
  context: Context,
  documentId: string,
): Promise<Thinning & { cameIntoForce: boolean }> {
  const { thinning, following } = await transact(context.db, async (tx) => {
    const document = await lockDocument(context, documentId, tx);
    if (!document) return { thinning: null, following: null };
    const one = new Following(context, document, context.clock(), tx);
    const cameIntoForce = await one.comeIntoForce();
    const gone = await one.thin();
    const bytes = gone.reduce((sum, { content }) => sum + content.size, 0);
    return { thinning: { versions: gone.length, bytes, cameIntoForce }, following: one };
  });
  if (following) publish(context, following.document, following.told);
  return thinning ?? { versions: 0, bytes: 0, cameIntoForce: false };
}
