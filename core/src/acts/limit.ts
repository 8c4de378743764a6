import { type Refusal, refuse } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import { waitingFor } from '../rules/approvalRun.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { maySee, sightClass, type Viewer } from '../rules/sight.ts';
import { firstRefusal, refuseReason } from './refusals.ts';
import { circleOf, type DocumentState, type Named, type Outcome, sightFacts } from './state.ts';

/** To whom a document is kept from now on; null: to nobody in particular, it is there for every member. */
export interface Limiting {
  limit: Named | null;
  reason: string;
}

/** Refuses who may not say to whom a document is kept. */
export const refuseLimiting = (actor: Actor): Refusal | null =>
  refuseByRole(actor, 'limit', 'Keeping a document to named people');

/**
 * Keeps a document to named people and groups, or opens it to every member again: for everybody else but
 * controllers it does not exist. Its owner and co-authors are always among those it is kept to. It makes no
 * version.
 */
export function limitDocument(state: DocumentState, actor: Actor, command: Limiting): Outcome {
  const { limit } = command;
  const reason = command.reason.trim();
  const refusal = firstRefusal(
    refuseLimiting(actor),
    refuseReason(reason, 'Say why the document is kept to these, or opened.'),
    refuseSame(state, limit),
    refuseLeftOut(state, limit),
  );
  if (refusal) return refusal;
  return {
    changes: [{ kind: 'setLimit', limit }],
    ledger: { act: 'limit', facts: { from: namedIn(state.limit), to: namedIn(limit), reason } },
  };
}

/** People and groups as the Ledger names them. */
export const namedIn = (named: Named | null): { people: string[]; groups: string[] } | null =>
  named && { people: [...named.personIds], groups: [...named.groupIds] };

/** Whether the same people and groups are named, in whatever order. */
export function isNamedAlike(one: Named | null, other: Named | null): boolean {
  const key = (named: Named | null): string =>
    JSON.stringify(named && [[...named.personIds].sort(), [...named.groupIds].sort()]);
  return key(one) === key(other);
}

function refuseSame({ number, limit }: DocumentState, to: Named | null): Refusal | null {
  if (!isNamedAlike(limit, to)) return null;
  const reason = to ? `${number} is kept to these already.` : `${number} is there for every member already.`;
  return refuse('conflict', 'nothing-changed', reason);
}

/** Nobody who has work on the document loses it from sight. */
function refuseLeftOut(state: DocumentState, limit: Named | null): Refusal | null {
  const circle = circleOf({ ...state, limit });
  if (!circle) return null;
  const { custody, approval, number } = state;
  if (custody && !circle.includes(custody.holderId)) {
    const { holderName } = custody;
    const reason = `${holderName} holds ${number} and would not see it any more. Name ${holderName} too, or lift the check-out first.`;
    return refuse('conflict', 'left-out', reason, { person: holderName });
  }
  const asked = approval
    ? waitingFor(approval).find(({ personId }) => !circle.includes(personId))
    : undefined;
  if (!asked) return null;
  const reason = `${asked.name} is asked to decide about ${number} and would not see it any more. Name ${asked.name} too, or put somebody else in their place first.`;
  return refuse('conflict', 'left-out', reason, { person: asked.name });
}

/** Who sees the document before a change and not after it, and the other way round, by id. */
export interface LimitOutlook {
  losing: string[];
  gaining: string[];
}

/** Whose sight of a document changes with its limit, among the members of its library. */
export function limitOutlook(
  state: DocumentState,
  limit: Named | null,
  { members, versions }: { members: readonly Viewer[]; versions: readonly Version[] },
): LimitOutlook {
  const apart = new Map(
    versions.map((version) => [
      `${sightClass(version)} ${version.thinned !== null} ${version.authorId}`,
      version,
    ]),
  );
  const seesAny = (under: DocumentState, viewer: Viewer): boolean =>
    [...apart.values()].some((version) => maySee(viewer, sightFacts(under, version), under.rules));
  const after = { ...state, limit };
  const changed = members.map((member) => ({
    id: member.id,
    before: seesAny(state, member),
    after: seesAny(after, member),
  }));
  return {
    losing: changed.filter((one) => one.before && !one.after).map(({ id }) => id),
    gaining: changed.filter((one) => !one.before && one.after).map(({ id }) => id),
  };
}
