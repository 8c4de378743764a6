import { formatLabel } from '../numbering/number.ts';
import type { Actor } from '../policy/roles.ts';
import { askAboutContent, type CheckIn } from '../versions/checkIn.ts';
import type { DocumentState, Outcome } from '../versions/document.ts';
import { firstRefusal, refuseByRole, refuseComment, refuseInApproval, refuseTooLarge, refuseUnseenLatest, refuseWhileHeld } from '../versions/document.ts';
import { addVersion, refuseLevel } from '../versions/newVersion.ts';
import { isRefusal, refuse, type Refusal } from '../versions/refusal.ts';
import type { ContentFacts, Version } from '../versions/version.ts';

export type BringIn = Pick<CheckIn, 'level' | 'comment' | 'confirm' | 'keepFileName' | 'sameButForMark'> & {
  content: ContentFacts;
  /** The version the copy was taken from; null for a file that was taken from none. */
  base: Version | null;
  /** Whether the content holds what happened since the base, put together with the copy. */
  merged: boolean;
};

/**
 * Makes a copy from somebody's Desk the next version: one set aside when its check-out was lifted, a loose copy, or an arrival. Takes custody
 * for the moment of the act.
 */
export function bringIn(state: DocumentState, actor: Actor, command: BringIn, now: Date): Outcome {
  const { latest, presentEra } = state;
  const refusal = firstRefusal(
    refuseByRole(actor, 'checkIn', 'Bringing in a copy'),
    refuseUnseenLatest(state, actor),
    refuseWhileHeld(state, actor),
    refuseInApproval(state),
    refuseLevel(state.rules, command.level),
    refuseComment(command.comment, state.rules.checkInComment === 'required'),
    refuseTooLarge(state.rules, command.content.size),
    askAboutBase(state, command),
    askAboutContent(state, latest, command.content, command),
  );
  if (refusal) return refusal;
  const added = addVersion(state, actor, {
    level: command.level, authorId: actor.id, comment: command.comment.trim(),
    origin: { kind: command.merged ? 'merge' : command.base ? 'checkIn' : 'import', from: (command.base ?? latest).id },
    content: command.keepFileName ? { ...command.content, fileName: latest.content.fileName } : command.content, fields: latest.fields,
  }, now);
  if (isRefusal(added)) return added;
  return {
    changes: added.changes,
    ledger: {
      act: 'bringIn',
      facts: {
        label: added.label, base: command.base && formatLabel(command.base, presentEra), latest: formatLabel(latest, presentEra), merged: command.merged,
        state: added.version.state, comment: added.version.comment, sha256: command.content.sha256,
      },
    },
  };
}

/** A copy that holds nothing of what happened since its base would undo it. */
function askAboutBase(state: DocumentState, { base, merged, confirm }: BringIn): Refusal | null {
  if (base === null || merged || base.id === state.latest.id || confirm.includes('stale-base')) return null;
  const [from, latest] = [formatLabel(base, state.presentEra), formatLabel(state.latest, state.presentEra)];
  return refuse('question', 'stale-base', `The copy was taken from ${from}; the latest is ${latest}. Check it in as it is, without what came after ${from}?`, { base: from, latest });
}
