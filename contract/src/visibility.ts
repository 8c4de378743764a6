import { z } from 'zod';
import { Id } from './common.ts';

/** Why someone sees, or does not see, versions of a document. */
export const VisibilityQuery = z.strictObject({
  version: z.string().max(64).optional(),
  cursor: z.string().max(64).optional(),
  limit: z.coerce.number().int().min(1).max(50).default(12),
  /** A part of a member's name or account. */
  member: z.string().trim().max(120).optional(),
});

/** Members by versions, each cell with its reason. */
export const Visibility = z.object({
  /** Newest first. */
  versions: z.array(
    z.object({ id: Id, label: z.string(), state: z.string(), standing: z.string().nullable() }),
  ),
  members: z.array(
    z.object({
      account: z.string(),
      name: z.string(),
      roles: z.array(z.string()),
      sees: z.array(z.object({ version: z.string(), sees: z.boolean(), why: z.string() })),
    }),
  ),
  next: z.string().nullable(),
  total: z.number(),
  /** Members that fit; the first hundred by name are told. */
  membersTotal: z.number(),
});

export type Visibility = z.output<typeof Visibility>;
