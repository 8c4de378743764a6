import { type Refusal, refuse } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import type { Actor } from '../rules/roles.ts';
import { explainVersion, seesVersion } from './refusals.ts';
import { type DocumentState, labelIn } from './state.ts';

/** An act of a person on one version's content, with their reason. */
export interface ByHand {
  version: Version;
  reason: string;
}

/** Refuses an act on a version the actor does not see, saying why they do not. */
export function refuseUnseen(state: DocumentState, actor: Actor, version: Version): Refusal | null {
  if (seesVersion(state, actor, version)) return null;
  return refuse('forbidden', 'not-seen', explainVersion(state, actor, version).why);
}

/** Refuses an act on a version whose content was thinned. */
export function refuseThinned(state: DocumentState, version: Version): Refusal | null {
  if (!version.thinned) return null;
  const reason = `The content of ${labelIn(state, version)} was thinned. Recover it first.`;
  return refuse('conflict', 'content-thinned', reason);
}
