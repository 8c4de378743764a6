import { z } from 'zod';
import { DocumentName } from './common.ts';

/** The name of a file. */
export const FileNameQuery = z.strictObject({ name: z.string().min(1).max(255) });

/** Documents that a file of this name may be meant for, the likeliest first. */
export const FileNameMatches = z.object({
  matches: z.array(
    z.object({
      document: DocumentName,
      /** `exactly`: its file has the name, had it, or got it from here; `number`: its number stands in it. */
      how: z.enum(['exactly', 'number']),
      /** The newest version the caller sees whose file is called so, or of all. */
      label: z.string(),
    }),
  ),
  /** Whether there are more than were looked at: then it cannot be said from the name. */
  more: z.boolean(),
});

export type FileNameMatches = z.output<typeof FileNameMatches>;
