import type * as contract from '@polychron/contract';
import {
  type Act,
  callBack,
  changeFields,
  checkIn,
  checkOut,
  decide,
  giveBack,
  isRefusal,
  momentWords,
  lift,
  type Outcome,
  publish,
  recover,
  reinstate,
  reschedule,
  type Refusal,
  refuse,
  refuseByRole,
  refuseDistributing,
  refuseLimiting,
  refuseMarking,
  refuseReplacing,
  refuseReviewing,
  refuseUnvoiding,
  refuseVoiding,
  type Registered,
  restore,
  shelter,
  submit,
  takeBack,
  thin,
  upload,
  type Version,
  withdraw,
} from '@polychron/core';
import { refusalOfClosed, refusalOfShut } from '../access/admission.ts';
import type { Access, Caller, LibraryActor } from '../access/caller.ts';
import type { LibraryRow } from '../store/models.ts';

type Answer = { allowed: boolean; why: string | null };
const answer = (outcome: Outcome | Refusal | null): Answer =>
  isRefusal(outcome) ? { allowed: false, why: outcome.reason } : { allowed: true, why: null };

/** While somebody looks back, or as somebody else, nothing can be done. */
function whileLooking({ lookingAs, lookingAt, name }: LibraryActor): Answer | null {
  if (lookingAt) {
    const why = `You are looking at ${momentWords(lookingAt)} and can only look. Go back to now to act.`;
    return answer(refuse('forbidden', 'only-looking', why));
  }
  if (lookingAs === undefined) return null;
  const why = `You are looking as ${name} and can only look. Go back to yourself to act.`;
  return answer(refuse('forbidden', 'only-looking', why));
}

/**
 * Answers by name: of each act what core says of it, unless the actor only looks or all is refused.
 */
function answers<N extends string>(
  actor: LibraryActor,
  refusal: Refusal | null,
  outcomes: Record<N, () => Outcome | Refusal | null>,
): Record<N, Answer> {
  const looking = whileLooking(actor) ?? (refusal && answer(refusal));
  const told = {} as Record<N, Answer>;
  for (const name in outcomes) told[name] = looking ?? answer(outcomes[name]());
  return told;
}

/** A command nobody could find fault with, so that only the state and the actor decide. */
const faultless = {
  level: 'major' as const,
  comment: 'x',
  confirm: ['same-bytes', 'other-name', 'other-type', 'stale-base'] as const,
  keepFileName: true,
};

/** What the caller may do with a document now, asked of core itself. */
export function documentActs(
  { document, actor }: Access,
  now: Date,
  registration: Registered | null,
): contract.Document['acts'] {
  const { latest } = document;
  const earlier = latest.sequence === 1 ? latest : { ...latest, id: 'an earlier version', thinned: null };
  const content = { ...latest.content, size: 0 };
  const given = { version: latest, comment: '', inForceFrom: null };
  const title = `${latest.fields.title} `;
  const unvoid = answers(actor, refusalOfClosed(document.closed), {
    unvoid: () => refuseUnvoiding(document, actor),
  });
  const others = answers<Exclude<contract.Act, 'unvoid'>>(actor, refusalOfShut(document), {
    checkOut: () => checkOut(document, actor, { reason: null, until: null }, now),
    checkIn: () => checkIn(document, actor, { ...faultless, keepCheckedOut: false, content }, now),
    upload: () => upload(document, actor, { ...faultless, content, basedOn: latest }, now),
    giveBack: () => giveBack(document, actor),
    lift: () => lift(document, actor, { reason: 'x' }),
    restore: () => restore(document, actor, { ...faultless, from: earlier, fields: false }, now),
    publish: () => publish(document, actor, given, now),
    changeFields: () => changeFields(document, actor, { fields: { title }, comment: '' }, now),
    submit: () => submit(document, actor, given, now),
    decide: () => decide(document, actor, { version: latest, decision: 'approve', comment: '' }, now),
    decideInPlace: () =>
      decide(document, actor, { version: latest, decision: 'approve', comment: 'x', inPlace: true }, now),
    replaceApprover: () => refuseReplacing(document, actor),
    callBack: () => callBack(document, actor, { comment: '' }, now),
    review: () => refuseReviewing(document, actor),
    markTemplate: () => refuseMarking(actor),
    limit: () => refuseLimiting(actor),
    distribute: () => refuseDistributing(document, actor),
    void: () => refuseVoiding(document, actor, registration, now),
  });
  return { ...others, ...unvoid };
}

/** What the caller may do with one version now. */
export function versionActs(
  { document, actor }: Access,
  version: Version,
  now: Date,
): contract.Version['acts'] {
  const given = { version, reason: 'x' };
  return answers(actor, refusalOfShut(document), {
    thin: () => thin(document, actor, given, now),
    recover: () => recover(document, actor, given, now),
    shelter: () => shelter(document, actor, { ...given, sheltered: true }),
    unshelter: () => shelter(document, actor, { ...given, sheltered: false }),
    withdraw: () => withdraw(document, actor, { ...given, previous: null }, now),
    reinstate: () => reinstate(document, actor, { ...given, later: [] }, now),
    reschedule: () => reschedule(document, actor, { version, inForceFrom: null }, now),
    takeBack: () => takeBack(document, actor, given, now),
  });
}

/** Acts that only look, which somebody looked at may still be shown to have. */
type Look = 'seePast' | 'seeVoided' | 'seeEveryVersion';
/** Acts on the library itself, which go on where it is closed. */
type Managing = 'manageMembers' | 'changeLibrary' | 'seeAs';
type Changing = Exclude<keyof contract.Library['acts'], Look | Managing>;

/** What the caller may do in a library; system administrators choose members everywhere. */
export function libraryActs(
  actor: LibraryActor,
  { systemAdministrator }: Pick<Caller, 'systemAdministrator'>,
  { name, closedAt }: Pick<LibraryRow, 'name' | 'closedAt'>,
): contract.Library['acts'] {
  const byRole = (act: Act, doing: string) => (): Refusal | null => refuseByRole(actor, act, doing);
  const changing: Record<Changing, () => Refusal | null> = {
    create: byRole('create', 'Registering a document'),
    checkIn: byRole('checkIn', 'Making versions'),
    changeRules: byRole('changeRules', 'Setting rules'),
  };
  const managing: Record<Managing, () => Refusal | null> = {
    manageMembers: systemAdministrator ? () => null : byRole('manageMembers', 'Choosing members'),
    changeLibrary: systemAdministrator ? () => null : byRole('changeLibrary', 'Changing the library'),
    seeAs: byRole('seeAs', 'Seeing the library as somebody else'),
  };
  return {
    ...answers(actor, refusalOfClosed(closedAt && { name, at: closedAt }), changing),
    ...answers(actor, null, managing),
    seeVoided: answer(refuseByRole(actor, 'seeVoided', 'Seeing voided documents')),
    seePast: answer(refuseByRole(actor, 'seePast', 'Seeing past versions')),
    seeEveryVersion: answer(refuseByRole(actor, 'seeEveryVersion', 'Seeing every version')),
  };
}
