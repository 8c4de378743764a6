import { isRefusal, type Refusal } from '../document/refusal.ts';
import type { ContentFacts, Level } from '../document/version.ts';
import { refuseTooLarge } from '../rules/allowance.ts';
import { levelOf, refuseLevel } from '../rules/levels.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { addVersion } from './addVersion.ts';
import { askAboutContent, type Incoming, underName } from './contentQuestions.ts';
import { firstRefusal, refuseComment, refuseNotHolding } from './refusals.ts';
import { type Change, type DocumentState, labelIn, type Outcome } from './state.ts';

/** What becomes of what the holder worked on. */
export interface CheckIn extends Incoming {
  level?: Level | undefined;
  comment: string;
  keepCheckedOut: boolean;
  /**
   * The file that comes with the check-in; null takes the working copy, or the base where nothing was saved.
   */
  content: ContentFacts | null;
}

/** Refuses whoever may not check in here, or holds nothing: before a file is looked at. */
export const refuseCheckIn = (state: DocumentState, actor: Actor): Refusal | null =>
  firstRefusal(refuseByRole(actor, 'checkIn', 'Checking in'), refuseNotHolding(state, actor));

/** Checks in: a new version on top of the base, of the level asked for (docs/rules.md, Custody). */
export function checkIn(state: DocumentState, actor: Actor, command: CheckIn, now: Date): Outcome {
  const { rules, custody } = state;
  const notHolding = firstRefusal(
    refuseCheckIn(state, actor),
    refuseLevel(rules, command.level),
    refuseComment(command.comment, rules.checkInComment === 'required'),
  );
  if (notHolding) return notHolding;
  if (!custody) throw new Error('unreachable: refuseNotHolding accepts only a held document');
  const { base } = custody;
  const given = command.content ?? custody.workingCopy ?? base.content;
  const open = firstRefusal(refuseTooLarge(rules, given.size), askAboutContent(state, base, given, command));
  if (open) return open;
  const content = underName(given, base.content, command);
  const making = {
    level: levelOf(command.level),
    comment: command.comment.trim(),
    origin: { kind: 'checkIn' as const, from: base.id },
    content,
    // What was withdrawn goes on only where it is the base.
    fields: state.latest.state === 'withdrawn' ? base.fields : state.latest.fields,
    keepCheckedOut: command.keepCheckedOut,
  };
  const added = addVersion(state, actor, making, now);
  if (isRefusal(added)) return added;
  const after: Change[] = command.keepCheckedOut
    ? [{ kind: 'emptyWorkingCopy' }, { kind: 'moveBase', to: 'new' }]
    : [{ kind: 'closeCustody', how: 'checkedIn', reason: null }];
  const { version, label, changes, notices } = added;
  return {
    changes: [...changes, ...after],
    ledger: {
      act: 'checkIn',
      facts: {
        label,
        base: labelIn(state, base),
        state: version.state,
        comment: version.comment,
        sha256: content.sha256,
        kept: command.keepCheckedOut,
      },
    },
    notices,
  };
}
