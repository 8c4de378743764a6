import type * as contract from '@polychron/contract';
import { type ApprovalDecision, decide } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { performOnVersion } from './onVersion.ts';

/** An approver's word about the version named. */
export interface DecideCommand {
  version: string;
  decision: ApprovalDecision;
  comment: string;
  /** Whether a controller decides in the place of those asked. */
  inPlace?: boolean;
}

/**
 * An approver's decision. Returns the version it made where it published one, else the version decided about.
 */
export function performDecide(
  asker: Asker,
  documentId: string,
  command: DecideCommand,
): Promise<contract.Version> {
  const { version: name, ...rest } = command;
  return performOnVersion(asker, { documentId, name }, ({ document, actor }, version, now) =>
    decide(document, actor, { version, ...rest }, now),
  );
}
