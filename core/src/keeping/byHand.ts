import { formatLabel } from '../numbering/number.ts';
import type { Actor } from '../policy/roles.ts';
import { may } from '../policy/roles.ts';
import type { DocumentState, Outcome } from '../versions/document.ts';
import { explainVersion, firstRefusal, refuseByRole, refuseReason } from '../versions/document.ts';
import { refuse, type Refusal } from '../versions/refusal.ts';
import type { Version } from '../versions/version.ts';
import { shelfEnd } from './keep.ts';

interface ByHand { version: Version; reason: string }

/** Thins one version by hand: authors their own drafts, controllers any that is not in use. */
export function thinByHand(state: DocumentState, actor: Actor, { version, reason }: ByHand, now: Date): Outcome {
  const label = formatLabel(version, state.presentEra);
  const refusal = firstRefusal(
    refuseByRole(actor, 'thin', 'Thinning a version'),
    refuseUnseen(state, actor, version),
    refuseOthers(actor, version, label),
    refuseInUse(state, version, label),
    refuseReason(reason, 'Say in a sentence why the content should go; the sentence stays with the version.'),
  );
  if (refusal) return refusal;
  const until = shelfEnd(state.rules, now);
  return {
    changes: [{ kind: 'thin', versionId: version.id, thinned: { at: now, until, why: `By hand: ${reason.trim()}` } }],
    ledger: { act: 'thinByHand', facts: { version: label, reason: reason.trim(), until: until.toISOString() } },
  };
}

/** Takes a thinned version's content back from the recovery shelf, and shelters it: the rules would only thin it again. */
export function recover(state: DocumentState, actor: Actor, { version, reason }: ByHand, now: Date): Outcome {
  const label = formatLabel(version, state.presentEra);
  const refusal = firstRefusal(
    refuseByRole(actor, 'recover', 'Recovering a version'),
    refuseUnseen(state, actor, version),
    refuseOffShelf(version, label, now),
    refuseReason(reason, 'Say in a sentence why the content is wanted back.'),
  );
  if (refusal) return refusal;
  return {
    changes: [{ kind: 'recover', versionId: version.id }, { kind: 'shelter', versionId: version.id, sheltered: true }],
    ledger: { act: 'recover', facts: { version: label, reason: reason.trim() } },
  };
}

/** Exempts a version from thinning, or ends that. */
export function shelter(state: DocumentState, actor: Actor, { version, reason, sheltered }: ByHand & { sheltered: boolean }): Outcome {
  const label = formatLabel(version, state.presentEra);
  const refusal = firstRefusal(
    refuseByRole(actor, 'shelter', sheltered ? 'Sheltering a version' : 'Ending the shelter of a version'),
    refuseUnseen(state, actor, version),
    version.thinned ? refuse('conflict', 'content-thinned', `The content of ${label} was thinned. Recover it first.`) : null,
    version.sheltered === sheltered
      ? refuse('conflict', sheltered ? 'sheltered-already' : 'not-sheltered', `${label} is ${sheltered ? 'sheltered already' : 'not sheltered'}.`) : null,
    refuseReason(reason, sheltered ? 'Say in a sentence why this version must stay.' : 'Say in a sentence why this version need not stay.'),
  );
  if (refusal) return refusal;
  return {
    changes: [{ kind: 'shelter', versionId: version.id, sheltered }],
    ledger: { act: sheltered ? 'shelter' : 'unshelter', facts: { version: label, reason: reason.trim() } },
  };
}

function refuseUnseen(state: DocumentState, actor: Actor, version: Version): Refusal | null {
  const sight = explainVersion(state, actor, version);
  return sight.sees ? null : refuse('forbidden', 'not-seen', sight.why);
}

function refuseOthers(actor: Actor, version: Version, label: string): Refusal | null {
  if (may(actor.roles, 'recover')) return null;
  const own = version.authorId === actor.id && (version.state === 'draft' || version.state === 'rejected');
  return own ? null : refuse('forbidden', 'not-own-draft', `${label} is not a draft of yours. Authors thin their own drafts; a controller can thin others.`);
}

function refuseInUse(state: DocumentState, version: Version, label: string): Refusal | null {
  const because = ((): string | null => {
    if (version.thinned) return 'was thinned already';
    if (version.standing === 'inForce') return 'is in force';
    if (version.standing === 'scheduled') return 'is about to come into force';
    if (version.state === 'inApproval') return 'is in approval';
    if (version.state === 'approved') return 'is approved and waits to be published';
    if (version.id === state.latest.id) return 'is the latest version';
    if (version.id === state.custody?.base.id) return `is the base of ${state.custody.holderName}'s check-out`;
    if (state.setAsideBaseIds.includes(version.id)) return 'is the base of a copy that was set aside';
    return version.sheltered ? 'is sheltered; end the shelter first' : null;
  })();
  return because === null ? null : refuse('conflict', version.thinned ? 'content-thinned' : 'in-use', `${label} ${because}. Its content stays as it is.`, { version: label });
}

function refuseOffShelf(version: Version, label: string, now: Date): Refusal | null {
  if (!version.thinned) return refuse('conflict', 'not-thinned', `${label} was not thinned; its content is here.`);
  if (version.thinned.until.getTime() > now.getTime()) return null;
  return refuse('conflict', 'off-the-shelf',
    `The content of ${label} left the recovery shelf on ${version.thinned.until.toISOString()} and is gone. Its record stays.`, { until: version.thinned.until.toISOString() });
}
