import { isRefusal, type Refusal, refuse } from '../document/refusal.ts';
import type { ContentFacts, Level, OriginKind, Version } from '../document/version.ts';
import { refuseTooLarge } from '../rules/allowance.ts';
import { levelOf, refuseLevel } from '../rules/levels.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { addVersion } from './addVersion.ts';
import { askAboutContent, type Incoming, underName } from './contentQuestions.ts';
import { firstRefusal, refuseComment, refuseUnfree } from './refusals.ts';
import { type DocumentState, labelIn, type Outcome } from './state.ts';

/** A file of one's own that is to become the next version. */
export interface BringIn extends Incoming {
  level?: Level | undefined;
  comment: string;
  content: ContentFacts;
  /** The version the copy was taken from; null for a file that was taken from none. */
  base: Version | null;
  /** Whether the content holds what happened since the base, put together with the copy. */
  merged: boolean;
}

/**
 * Whether the actor may bring anything into the document now; asked before the file is held against what the
 * document holds.
 */
export const refuseBringingIn = (state: DocumentState, actor: Actor): Refusal | null =>
  firstRefusal(refuseByRole(actor, 'checkIn', 'Bringing in a copy'), refuseUnfree(state, actor));

/**
 * Makes a copy from somebody's Desk the next version: one set aside when its check-out was lifted, a loose
 * copy, or an arrival. Takes custody for the moment of the act.
 */
export function bringIn(state: DocumentState, actor: Actor, command: BringIn, now: Date): Outcome {
  const { latest, rules } = state;
  const { base, merged } = command;
  const refusal = firstRefusal(
    refuseBringingIn(state, actor),
    refuseLevel(rules, command.level),
    refuseComment(command.comment, rules.checkInComment === 'required'),
    refuseTooLarge(rules, command.content.size),
    askAboutBase(state, command),
    askAboutContent(state, latest, command.content, command),
  );
  if (refusal) return refusal;
  const making = {
    level: levelOf(command.level),
    comment: command.comment.trim(),
    origin: { kind: originOf(command), from: (base ?? latest).id },
    content: underName(command.content, latest.content, command),
    fields: latest.fields,
  };
  const added = addVersion(state, actor, making, now);
  if (isRefusal(added)) return added;
  return {
    changes: added.changes,
    ledger: {
      act: 'bringIn',
      facts: {
        label: added.label,
        base: base && labelIn(state, base),
        latest: labelIn(state, latest),
        merged,
        state: added.version.state,
        comment: added.version.comment,
        sha256: command.content.sha256,
      },
    },
    notices: added.notices,
  };
}

/** Both sides in it, the copy alone, or a file that was taken from nothing. */
function originOf({ merged, base }: BringIn): OriginKind {
  if (merged) return 'merge';
  return base ? 'checkIn' : 'import';
}

/** A copy that holds nothing of what happened since its base would undo it. */
function askAboutBase(state: DocumentState, { base, merged, confirm }: BringIn): Refusal | null {
  if (base === null || merged || base.id === state.latest.id || confirm.includes('stale-base')) return null;
  const [from, latest] = [labelIn(state, base), labelIn(state, state.latest)];
  return refuse(
    'question',
    'stale-base',
    `The copy was taken from ${from}; the latest is ${latest}. Check it in as it is, without what came after ${from}?`,
    { base: from, latest },
  );
}
