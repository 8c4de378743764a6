import { z } from 'zod';
import { DocumentInLibrary, Instant } from './common.ts';

/** What people are told of. */
export const noticeKinds = [
  'overdue',
  'lifted',
  'rejected',
  'approved',
  'toDecide',
  'handedOver',
  'replaced',
  'putInPlace',
  'decidedForYou',
  'withdrawn',
  'reinstated',
  'reviewed',
  'reviewDue',
  'published',
  'toRead',
  'toReadStill',
  'toFinish',
] as const;

/** Something one was told, in words. */
export const Notice = z.object({
  id: z.string(),
  kind: z.enum(noticeKinds),
  at: Instant,
  document: DocumentInLibrary,
  text: z.string(),
  read: z.boolean(),
});

/** A part of what one was told, newest first. */
export const NoticeList = z.object({
  items: z.array(Notice),
  next: z.string().nullable(),
  total: z.number(),
  unread: z.number(),
});

/** Marks notices as read, up to this one. */
export const NoticesRead = z.strictObject({ upTo: z.string().regex(/^\d{1,18}$/) });

export type Notice = z.output<typeof Notice>;

export type NoticeList = z.output<typeof NoticeList>;
