import { dayAfter, reviewAhead } from '@polychron/core';
import type { Context } from '../context.ts';
import { insertNotices } from '../store/notices.ts';
import { reviewsUntold } from '../store/reviews.ts';

/** Documents whose owners are told of in one turn. */
const atOnce = 200;

/** Tells owners, once, of every document that is soon to be reviewed. Returns how many they were. */
export async function tellOfReviews(context: Context): Promise<number> {
  const now = context.clock();
  const untold = await reviewsUntold(context, dayAfter(now, reviewAhead), atOnce);
  for (const { documentId, ownerId, reviewBy } of untold) {
    const about = `review:${documentId}:${reviewBy}`;
    const notice = { kind: 'reviewDue' as const, about, documentId, at: now, facts: { by: reviewBy } };
    await insertNotices(context, [ownerId], notice);
    context.events.publish({ kind: 'notices', personIds: [ownerId] });
  }
  return untold.length;
}
