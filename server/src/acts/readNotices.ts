import type { Asker } from '../access/caller.ts';
import { markRead } from '../store/notices.ts';

/** Marks the caller's notices as read, up to one. */
export const performReadNotices = ({ context, caller }: Asker, upTo: string): Promise<void> =>
  markRead(context, caller.id, upTo, context.clock());
