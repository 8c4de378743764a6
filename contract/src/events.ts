import { z } from 'zod';
import { Id } from './common.ts';

/** What one server-sent event tells of, by its name; each goes only to those who see what it is about. */
export const Events = z.object({
  /** The stream has begun. */
  ready: z.object({}),
  /** A document changed, or who holds it did. */
  document: z.object({ document: Id, library: Id }),
  /** Rules, name or long work of a library changed. */
  library: z.object({ library: Id }),
  /** One was told something. */
  notices: z.object({}),
  /** More happened than could be told: everything is to be read again. */
  everything: z.object({}),
});
export type Events = z.output<typeof Events>;
