import { type Refusal, refuse } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import { type Actor, may, refuseByRole } from '../rules/roles.ts';
import { isNamedAlike, namedIn } from './limit.ts';
import { firstRefusal } from './refusals.ts';
import {
  type Decision,
  type DocumentState,
  labelIn,
  type Named,
  type Notice,
  type Outcome,
} from './state.ts';

/** Refuses who may not say who is to read a document: that is for owner, co-authors and controllers. */
export function refuseDistributing(
  { number, ownerId, ownerName, coAuthorIds }: DocumentState,
  actor: Actor,
): Refusal | null {
  const inCharge = [ownerId, ...coAuthorIds].includes(actor.id) || may(actor.roles, 'distributeOthers');
  if (inCharge) return refuseByRole(actor, 'changeFields', 'Saying who is to read a document');
  const reason = `Who is to read ${number} is said by its owner ${ownerName}, its co-authors and controllers.`;
  return refuse('forbidden', 'not-in-charge', reason, { owner: ownerName });
}

/** Refuses who may not be told who has read a document: that is for who may say it, and auditors. */
export const refuseSeeingReaders = (state: DocumentState, actor: Actor): Refusal | null =>
  may(actor.roles, 'seeReaders') ? null : refuseDistributing(state, actor);

/**
 * Says who is to read a document: who is named is told of every version that comes into force, and confirms
 * having read it. Who is named now and was not before is asked to read what is in force.
 * @param command.keptFrom names of the people named for whom the document is not there, being kept to others
 */
export function distribute(
  state: DocumentState,
  actor: Actor,
  { distribution, keptFrom = [] }: { distribution: Named | null; keptFrom?: readonly string[] },
  now: Date,
): Outcome {
  const refusal = firstRefusal(
    refuseDistributing(state, actor),
    refuseSame(state, distribution),
    refuseKeptFrom(state, keptFrom),
  );
  if (refusal) return refusal;
  const before = new Set(state.distribution?.memberIds ?? []);
  const added = (distribution?.memberIds ?? []).filter((id) => !before.has(id));
  const facts = { from: namedIn(state.distribution), to: namedIn(distribution) };
  return {
    changes: [{ kind: 'setDistribution', distribution, at: now }],
    ledger: { act: 'distribute', facts },
    notices: state.inForce ? toRead(state, state.inForce, added) : [],
  };
}

function refuseSame({ number, distribution }: DocumentState, to: Named | null): Refusal | null {
  if (!isNamedAlike(distribution, to)) return null;
  const reason = to ? `${number} is distributed to these already.` : `Nobody is asked to read ${number}.`;
  return refuse('conflict', 'nothing-changed', reason);
}

/** Nobody is asked to read what they cannot see. */
function refuseKeptFrom({ number }: DocumentState, [name, ...others]: readonly string[]): Refusal | null {
  if (name === undefined) return null;
  const who = others.length === 0 ? name : `${name} and ${others.length} more`;
  const reason = `${number} is kept to named people, and ${who} would not see it. Keep it to them too first, or leave them out.`;
  return refuse('conflict', 'kept-from', reason, { people: [name, ...others] });
}

/** Tells people that a version in force is for them to read, each once. */
function toRead(state: DocumentState, version: Version, personIds: readonly string[]): Notice[] {
  if (personIds.length === 0) return [];
  const facts = { label: labelIn(state, version), comment: version.comment };
  return [{ kind: 'toRead', personIds, about: `toRead:${version.id}`, facts }];
}

/** What already tells those concerned that another version is in force. */
const tellOfForce: readonly Notice['kind'][] = ['approved', 'withdrawn', 'reinstated'];

/**
 * Tells of a version that is in force now and was not before: those it is distributed to are asked to read
 * it; owner, co-authors and its author are told where the act that brought it about does not tell them, but
 * not whoever did it. Null where nobody is to be told.
 * @param by who did it; null where its time came
 * @param told what the act itself tells
 */
export function tellOfComing(
  state: DocumentState,
  before: Version | null,
  by: string | null,
  told: readonly Notice[],
): Decision | null {
  const { inForce, distribution, ownerId, coAuthorIds } = state;
  if (!inForce || inForce.id === before?.id) return null;
  const concerned = [...new Set([ownerId, ...coAuthorIds, inForce.authorId])].filter((id) => id !== by);
  const isTold = told.some(({ kind }) => tellOfForce.includes(kind));
  const facts = { label: labelIn(state, inForce), comment: inForce.comment };
  const about = `published:${inForce.id}:${inForce.inForceFrom?.getTime() ?? 0}`;
  const notices: Notice[] = [
    ...toRead(state, inForce, distribution?.memberIds ?? []),
    ...(isTold || concerned.length === 0
      ? []
      : [{ kind: 'published' as const, personIds: concerned, about, facts }]),
  ];
  return notices.length === 0 ? null : { changes: [], ledger: null, notices };
}

/** What somebody says of having read a version. */
export interface ReadingSaid {
  version: Version;
  /** When they confirmed it before; null: not yet. */
  confirmed: Date | null;
}

/** Confirms having read what is in force, for whoever is asked to read it. */
export function confirmRead(state: DocumentState, actor: Actor, reading: ReadingSaid, now: Date): Outcome {
  const { version } = reading;
  const label = labelIn(state, version);
  const refusal = refuseReading(state, actor, reading);
  if (refusal) return refusal;
  return {
    changes: [{ kind: 'confirmRead', versionId: version.id, personId: actor.id, at: now }],
    ledger: { act: 'read', facts: { version: label } },
  };
}

/** Whether somebody cannot confirm having read a version; null where they can. */
export function refuseReading(
  state: DocumentState,
  actor: Actor,
  { version, confirmed }: ReadingSaid,
): Refusal | null {
  const { number, inForce, distribution } = state;
  const label = labelIn(state, version);
  if (inForce?.id !== version.id) {
    const instead = inForce ? `${labelIn(state, inForce)} is` : 'Nothing of it is';
    return refuse('conflict', 'not-in-force', `${number} ${label} is not in force. ${instead} in force.`, {
      version: label,
    });
  }
  if (!distribution?.memberIds.includes(actor.id)) {
    const reason = `${number} is not distributed to you; you need not confirm it.`;
    return refuse('forbidden', 'not-distributed-to-you', reason);
  }
  if (confirmed === null) return null;
  const reason = `You confirmed having read ${number} ${label} already.`;
  return refuse('conflict', 'read-already', reason, { at: confirmed.toISOString() });
}

/** Reminds those who have not confirmed what is in force yet. */
export function remindReaders(
  state: DocumentState,
  actor: Actor,
  { outstanding }: { outstanding: readonly string[] },
  now: Date,
): Outcome {
  const { inForce, number } = state;
  const refusal = firstRefusal(
    refuseDistributing(state, actor),
    inForce && outstanding.length > 0 ? null : refuseNobody(number),
  );
  if (refusal) return refusal;
  const version = inForce as Version;
  const label = labelIn(state, version);
  const about = `toReadStill:${version.id}:${now.getTime()}`;
  return {
    changes: [],
    ledger: { act: 'remind', facts: { version: label, people: [...outstanding] } },
    notices: [{ kind: 'toReadStill', personIds: outstanding, about, facts: { label, by: actor.name } }],
  };
}

const refuseNobody = (number: string): Refusal =>
  refuse('conflict', 'nobody-outstanding', `Nobody is left to be reminded of ${number}.`);
