import { type Refusal, refuse } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import { type Actor, may, refuseByRole } from '../rules/roles.ts';
import { type ByHand, refuseUnseen } from './byHand.ts';
import { shelfEnd } from './planThinning.ts';
import { firstRefusal, refuseReason } from './refusals.ts';
import { type DocumentState, labelIn, type Outcome } from './state.ts';

/** Thins one version by hand: authors their own drafts, controllers any that is not in use. */
export function thin(state: DocumentState, actor: Actor, { version, reason }: ByHand, now: Date): Outcome {
  const label = labelIn(state, version);
  const refusal = firstRefusal(
    refuseByRole(actor, 'thin', 'Thinning a version'),
    refuseUnseen(state, actor, version),
    refuseOthers(actor, version, label),
    refuseInUse(state, version, label),
    refuseReason(reason, 'Say in a sentence why the content should go; the sentence stays with the version.'),
  );
  if (refusal) return refusal;
  const until = shelfEnd(state.rules, now);
  const thinned = { at: now, until, why: `By hand: ${reason.trim()}` };
  return {
    changes: [{ kind: 'thin', versionId: version.id, thinned }],
    ledger: {
      act: 'thinByHand',
      facts: { version: label, reason: reason.trim(), until: until.toISOString() },
    },
  };
}

function refuseOthers(actor: Actor, version: Version, label: string): Refusal | null {
  if (may(actor.roles, 'thinOthers')) return null;
  const isDraft = version.state === 'draft' || version.state === 'rejected';
  if (isDraft && version.authorId === actor.id) return null;
  const reason = `${label} is not a draft of yours. Authors thin their own drafts; a controller can thin others.`;
  return refuse('forbidden', 'not-own-draft', reason);
}

function refuseInUse(state: DocumentState, version: Version, label: string): Refusal | null {
  const use = useOf(state, version);
  if (use === null) return null;
  const code = version.thinned ? 'content-thinned' : 'in-use';
  return refuse('conflict', code, `${label} ${use}. Its content stays as it is.`, { version: label });
}

/** What a version's content is needed for; null where nothing needs it. */
function useOf(state: DocumentState, version: Version): string | null {
  const { latest, custody, setAsideBaseIds } = state;
  if (version.thinned) return 'was thinned already';
  if (version.standing === 'inForce') return 'is in force';
  if (version.standing === 'scheduled') return 'is about to come into force';
  if (version.state === 'inApproval') return 'is in approval';
  if (version.state === 'approved') return 'is approved and waits to be published';
  if (version.id === latest.id) return 'is the latest version';
  if (custody && version.id === custody.base.id) return `is the base of ${custody.holderName}'s check-out`;
  if (setAsideBaseIds.includes(version.id)) return 'is the base of a copy that was set aside';
  return version.sheltered ? 'is sheltered; end the shelter first' : null;
}
