import { type Refusal, refuse } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import { canDecide } from '../rules/approvalRun.ts';
import { type Actor, may, rolesFor } from '../rules/roles.ts';
import { maySee } from '../rules/sight.ts';
import { firstRefusal } from './refusals.ts';
import { type Change, type DocumentState, type Notice, type Outcome, sightFacts } from './state.ts';

/** What of a document somebody answers for. */
export const charges = ['owns', 'coAuthors', 'approves', 'decides', 'holds', 'setAside'] as const;
export type Charge = (typeof charges)[number];

/** Somebody whose charges go to another. */
export interface HandOver {
  from: { id: string; name: string };
  to: Actor;
  /** The document's own approvers, by id. */
  ownApproverIds: readonly string[];
  /** Bases of copies of this document that were set aside for `from`. */
  asideBases: readonly Version[];
  /** Who hands over, by name. */
  by: string;
  /** What alone is handed over; all where it is left out. */
  only?: readonly Charge[];
}

/** What of a document `from` answers for. */
export function chargesOf(
  state: DocumentState,
  { from, ownApproverIds, asideBases, only = charges }: Omit<HandOver, 'to' | 'by'>,
): Charge[] {
  const isAsked = state.approval?.posts.some(
    ({ personId, decision }) => personId === from.id && isOpen(decision),
  );
  const held: Record<Charge, boolean> = {
    owns: state.ownerId === from.id,
    coAuthors: state.coAuthorIds.includes(from.id),
    approves: ownApproverIds.includes(from.id),
    decides: isAsked ?? false,
    holds: state.custody?.holderId === from.id,
    setAside: asideBases.length > 0,
  };
  return charges.filter((charge) => held[charge] && only.includes(charge));
}

const isOpen = (decision: string | null): boolean => decision === null || decision === 'later';

/**
 * Hands over what one person answers for in a document to another: ownership, co-authorship, place among the
 * approvers, an open decision, the check-out with its saves, copies set aside. The other is told. Refused is
 * what they could not do in that place.
 */
export function handOver(state: DocumentState, command: HandOver, now: Date): Outcome {
  const { from, to, by } = command;
  const handed = chargesOf(state, command);
  if (handed.length === 0) {
    return refuse('conflict', 'nothing-to-hand-over', `${from.name} answers for nothing in ${state.number}.`);
  }
  const refusal = firstRefusal(
    ...handed.map((charge) => refuseCharge[charge](state, command)),
    refuseStranger(to),
  );
  if (refusal) return refusal;
  const notice: Notice = {
    kind: 'handedOver',
    personIds: [to.id],
    about: `handedOver:${state.id}:${from.id}:${now.getTime()}`,
    facts: { by, from: from.name, what: handed.join(' ') },
  };
  return {
    changes: [
      ...peopleChanges(state, command, handed),
      ...handed.flatMap((charge) => charged(command, charge, now)),
    ],
    ledger: { act: 'handOver', facts: { from: from.name, to: to.name, what: handed } },
    notices: [notice],
  };
}

function peopleChanges(state: DocumentState, command: HandOver, handed: readonly Charge[]): Change[] {
  const { from, to, ownApproverIds } = command;
  if (!handed.some((charge) => ['owns', 'coAuthors', 'approves'].includes(charge))) return [];
  const replaced = (ids: readonly string[]): string[] => [
    ...new Set(ids.map((id) => (id === from.id ? to.id : id))),
  ];
  const asked = state.approvers
    .filter(({ id }) => id !== to.id)
    .map((each) => (each.id === from.id ? to : each));
  return [
    {
      kind: 'setPeople',
      owner: handed.includes('owns') ? { id: to.id, name: to.name } : null,
      coAuthorIds: handed.includes('coAuthors') ? replaced(state.coAuthorIds) : null,
      approvers: handed.includes('approves') ? { own: replaced(ownApproverIds), asked } : null,
    },
  ];
}

/** What a charge changes beside the document's people. */
function charged({ from, to, by }: HandOver, charge: Charge, now: Date): Change[] {
  const holder = { holderId: to.id, holderName: to.name };
  switch (charge) {
    case 'decides':
      return [{ kind: 'replacePost', fromId: from.id, to: { id: to.id, name: to.name } }];
    case 'holds':
      return [{ kind: 'passCustody', ...holder, at: now, reason: `Handed over by ${by}` }];
    case 'setAside':
      return [{ kind: 'passAside', fromId: from.id, toId: to.id }];
    case 'owns':
    case 'coAuthors':
    case 'approves':
      return [];
  }
}

/** Why `to` could not do what a charge asks; null where they could. */
const refuseCharge: Record<Charge, (state: DocumentState, command: HandOver) => Refusal | null> = {
  owns: () => null,
  coAuthors: () => null,
  approves: (_, { to }) =>
    may(to.roles, 'decide') ? null : unfit(to, 'be an approver', `that is for ${rolesFor('decide')}`),
  decides: refuseDecider,
  holds: (_, { to }) =>
    may(to.roles, 'checkOut') ? null : unfit(to, 'hold documents', `that is for ${rolesFor('checkOut')}`),
  setAside: (state, { to, asideBases }) => {
    if (!may(to.roles, 'checkOut'))
      return unfit(to, 'take copies set aside', `that is for ${rolesFor('checkOut')}`);
    const sees = (base: Version): boolean => maySee(to, sightFacts(state, base), state.rules);
    return asideBases.every(sees)
      ? null
      : unfit(to, 'take every copy set aside', 'one is of a version they do not see');
  },
};

function refuseDecider(state: DocumentState, { to }: HandOver): Refusal | null {
  const { approval, latest, rules } = state;
  if (approval?.posts.some(({ personId }) => personId === to.id)) {
    return unfit(to, 'decide in two places', 'they are asked about the same version already');
  }
  if (canDecide(rules, to, sightFacts(state, latest))) return null;
  return unfit(
    to,
    'decide',
    'an approver needs the role, sees versions in approval, and is not their author here',
  );
}

const refuseStranger = (to: Actor): Refusal | null =>
  to.roles.size > 0 ? null : unfit(to, 'answer for documents', 'they are no member of this library');

const unfit = (to: Actor, what: string, why: string): Refusal =>
  refuse('conflict', 'successor-unfit', `${to.name} cannot ${what}: ${why}.`, { successor: to.name });
